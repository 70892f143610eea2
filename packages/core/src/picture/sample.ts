/** Small samples of pictures, as they are compared. */

/** The size at which pictures are compared, whatever their shape. */
export const sampleSize = { width: 96, height: 54 } as const
/** Bytes of brightness at the beginning of a sample. */
export const lumaBytes = sampleSize.width * sampleSize.height
export const sampleBytes = lumaBytes + (sampleSize.width / 2) * (sampleSize.height / 2) * 2

/** The sample of a black picture. */
export const blackSample = (): Uint8Array => new Uint8Array(sampleBytes).fill(128, lumaBytes)
