/** XML that others wrote: read, or what is wrong with it. It never throws. */
export { readXml } from './read.ts'
