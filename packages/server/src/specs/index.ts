/** Specs of edit copies, and how a picture lies in a copy by one. */
export { asOriginal, factsOf, layoutOf } from './layout.ts'
export {
  addSpec,
  changeSpec,
  copySpec,
  elsewhere,
  isElsewhere,
  listSpecs,
  removeSpec,
  restoreSpec,
  seedSpecs,
  setDefaultSpec,
  specOfCopy,
  specsOfCopies,
  specVersion,
  specVersions,
} from './specs.ts'
