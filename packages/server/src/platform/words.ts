/** How many, in sentences. */

/** `1 clip`, `9,997 clips`. */
export const plural = (n: number, one: string, many = `${one}s`): string => `${n.toLocaleString('en')} ${n === 1 ? one : many}`

/** One by its name, more by their number. */
export const nameOrNumber = (list: readonly { readonly name: string }[]): string => (list.length === 1 ? (list[0]?.name ?? '') : plural(list.length, 'clip'))
