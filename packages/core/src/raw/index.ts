/** Raw pictures: what a DNG file says, white balance, decode settings, and the display transform. */
export * from './balance.ts'
export * from './decode.ts'
export * from './dng.ts'
