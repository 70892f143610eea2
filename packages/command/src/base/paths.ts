/** Where things are in this checkout. */
import { existsSync } from 'node:fs'
import { homedir } from 'node:os'
import { join, resolve } from 'node:path'

export const home = resolve(import.meta.dirname, '../../../..')
/** Where instances live; NARANJA_DATA puts them elsewhere. */
export const dataFolder = process.env.NARANJA_DATA ? resolve(process.env.NARANJA_DATA) : join(home, '.naranja')
export const webDist = join(home, 'packages/web/dist')
const fontFile = (family: string): string => join(home, `node_modules/@fontsource-variable/${family}/files/${family}-latin-wght-normal.woff2`)
export const font = fontFile('hanken-grotesk')
/** For pictures: text, and digits of one width. */
export const fonts = { text: font, mono: fontFile('jetbrains-mono') }
/** Folders in which Linux mounts media. */
export const mediaParents = (): string[] =>
  ['/media', `/media/${process.env.USER ?? 'root'}`, `/run/media/${process.env.USER ?? 'root'}`, '/mnt'].filter((p) => existsSync(p))
export const userHome = homedir
