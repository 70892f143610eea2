/** Sizes, and a picture fitted into another size with all of it kept. */
export interface Size {
  readonly width: number
  readonly height: number
}

/** Where the whole source picture lands inside the target, in target pixels; `fit` keeps all of it, with black around. */
export interface Placement extends Size {
  readonly x: number
  readonly y: number
}

export const even = (x: number): number => Math.max(2, Math.round(x / 2) * 2)

/**
 * Fits a source (pixels of shape `pixelAspect`, width over height) into a target of square pixels: all of the picture,
 * centred, sizes and places even so that subsampled chroma stays in place.
 */
export function fit(source: Size, target: Size, pixelAspect = 1): Placement {
  const shown = source.width * pixelAspect
  const scale = Math.min(target.width / shown, target.height / source.height)
  const width = Math.min(target.width, even(shown * scale))
  const height = Math.min(target.height, even(source.height * scale))
  return { width, height, x: Math.floor((target.width - width) / 4) * 2, y: Math.floor((target.height - height) / 4) * 2 }
}

/** How much larger than its source a picture gets, in per cent; 100 is 1:1. */
export const enlargement = (source: Size, target: Size, pixelAspect = 1): number => Math.round((fit(source, target, pixelAspect).height / source.height) * 100)
