/** What numbered pictures say of time in their own headers: read, and written into finished files. */
export * from './atom.ts'
export { readDpx, writeDpx } from './dpx.ts'
export { readExr, writeExr } from './exr.ts'
export { type FirstAndLast, pictureLabel, pictureTime, type PictureTime, type TimeStamp } from './time.ts'
