/** The shell around every page: rail, keys, commands, addresses. */
export { router } from './router.tsx'
