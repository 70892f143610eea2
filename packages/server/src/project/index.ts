/** What sums up: projects, the list of their clips, and undo. */
export { clipDetail, laneClips, listClips } from './clips.ts'
export { createProject, editProject, listProjects, projectRow, removeProject, setViewing, summary, viewingOf } from './service.ts'
export { undo } from './undo.ts'
