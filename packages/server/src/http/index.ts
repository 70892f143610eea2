/** The way in: routes, browsers that are known, workers on other machines. */
export { Door } from './door.ts'
export { guard, headers, letIn, pagePolicy, type Trusted } from './guard.ts'
export { KnownBrowsers } from './known.ts'
export { Live } from './live.ts'
export { mountRoutes } from './mount.ts'
export { answerProblems, problem } from './problems.ts'
