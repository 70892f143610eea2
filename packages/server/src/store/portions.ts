/** Thousands of rows are written and looked up some at a time. */

/** So many rows at once. */
export const portion = 500
export const inPortions = <T>(list: readonly T[]): T[][] =>
  Array.from({ length: Math.ceil(list.length / portion) }, (_, i) => list.slice(i * portion, (i + 1) * portion))
