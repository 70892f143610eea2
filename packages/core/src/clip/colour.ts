/** Colour tags in words: the code points of ITU-T H.273 by the names FFmpeg gives them. */
import type { Technical } from './model.ts'

type Tags = Technical['colour']
type Words = readonly [name: string, meaning: string]

/** H.273, 8.1. */
const primaries: Readonly<Record<string, Words>> = {
  bt709: ['BT.709', 'the colours of HD screens'],
  bt2020: ['BT.2020', 'the wide colours of UHD and HDR'],
  smpte170m: ['BT.601 (525 lines)', 'the colours of standard definition, 525 lines'],
  smpte240m: ['ST 240', 'the colours of early HD, close to standard definition'],
  bt470bg: ['BT.601 (625 lines)', 'the colours of standard definition, 625 lines'],
  bt470m: ['BT.470 M', 'the colours of early colour television'],
  smpte431: ['P3 (theatre)', 'the colours of cinema projectors'],
  smpte432: ['P3 D65', 'the colours of cinema, with the white of screens'],
  film: ['film', 'the colours of film stock under illuminant C'],
  smpte428: ['XYZ', 'every colour that can be seen, as cinema packages hold them'],
}
/** H.273, 8.2. */
const transfers: Readonly<Record<string, Words>> = {
  bt709: ['BT.709', 'brightness curved as for HD screens'],
  smpte170m: ['BT.601', 'brightness curved as for HD screens (the same curve)'],
  'bt2020-10': ['BT.2020', 'brightness curved as for HD screens, 10 bit'],
  'bt2020-12': ['BT.2020', 'brightness curved as for HD screens, 12 bit'],
  smpte2084: ['PQ', 'HDR: each value is a brightness in candela (ST 2084)'],
  'arib-std-b67': ['HLG', 'HDR that ordinary screens can show too (hybrid log-gamma)'],
  'iec61966-2-1': ['sRGB', 'brightness curved as for computer screens'],
  bt470bg: ['gamma 2.8', 'brightness curved as for old 625-line screens'],
  bt470m: ['gamma 2.2', 'brightness curved as for old 525-line screens'],
  gamma22: ['gamma 2.2', 'brightness curved by the power 2.2'],
  gamma28: ['gamma 2.8', 'brightness curved by the power 2.8'],
  linear: ['linear', 'values in proportion to light; looks dark without a display transform'],
  log100: ['log', 'logarithmic; looks flat without a display transform'],
  log316: ['log', 'logarithmic; looks flat without a display transform'],
  smpte240m: ['ST 240', 'brightness curved as for early HD'],
  smpte428: ['ST 428', 'brightness curved by the power 2.6, as in cinemas'],
}
/** H.273, 8.3. */
const matrices: Readonly<Record<string, Words>> = {
  bt709: ['BT.709', 'brightness and colour apart, weighed as for HD'],
  bt2020nc: ['BT.2020', 'brightness and colour apart, weighed as for UHD'],
  bt2020c: ['BT.2020 constant', 'brightness and colour apart, in linear light'],
  smpte170m: ['BT.601', 'brightness and colour apart, weighed as for standard definition'],
  bt470bg: ['BT.601', 'brightness and colour apart, weighed as for standard definition'],
  smpte240m: ['ST 240', 'brightness and colour apart, weighed as for early HD'],
  gbr: ['RGB', 'red, green and blue as they are'],
  ycgco: ['YCgCo', 'brightness, green and orange'],
  ictcp: ['ICtCp', 'brightness and colour apart, made for HDR'],
}
/** Whether a tag says anything: neither empty, unknown, unspecified nor reserved. */
export const isTagged = (tag: string): boolean => tag !== '' && tag !== 'unknown' && tag !== 'unspecified' && tag !== 'reserved'
const nameOf = (table: Readonly<Record<string, Words>>, tag: string): string => table[tag]?.[0] ?? tag

interface TaggedPicture {
  readonly width: number
  readonly height: number
  readonly colour: Tags
}

/**
 * The matrix by which a picture is read: as tagged, else BT.709 from 720 lines up and BT.601 by its lines below, 625 or 525 of them on air (BT.601-7,
 * BT.709-6). The same everywhere: viewing, comparing, copying, rendering. Range, where it is not tagged, follows from the pixel format.
 */
export function seenMatrix({ colour, width, height }: TaggedPicture): string {
  if (isTagged(colour.matrix)) return colour.matrix
  const lines = Math.min(width, height)
  return lines >= 720 ? 'bt709' : lines > 486 ? 'bt470bg' : 'smpte170m'
}
/** The tags that stand for what is assumed of an untagged picture. */
export function seenColour(t: TaggedPicture): { primaries: string; transfer: string; matrix: string; range: string } {
  const matrix = seenMatrix(t)
  const own = matrix === 'bt470bg' || matrix === 'smpte170m' ? matrix : 'bt709'
  return {
    primaries: isTagged(t.colour.primaries) ? t.colour.primaries : own,
    transfer: isTagged(t.colour.transfer) ? t.colour.transfer : own === 'bt709' ? 'bt709' : 'smpte170m',
    matrix,
    range: isTagged(t.colour.range) ? t.colour.range : 'tv',
  }
}

/** In a few words: `BT.709, limited range`; `no tags`. */
export function colourWords(c: Tags): string {
  const names = [
    ...new Set([
      ...(isTagged(c.primaries) ? [nameOf(primaries, c.primaries)] : []),
      ...(isTagged(c.transfer) ? [nameOf(transfers, c.transfer)] : []),
      ...(isTagged(c.matrix) ? [nameOf(matrices, c.matrix)] : []),
    ]),
  ]
  const range = c.range === 'pc' ? 'full range' : c.range === 'tv' ? 'limited range' : null
  return [...(names.length ? names : ['no tags']), ...(range ? [range] : [])].join(', ')
}

/** What each tag means, one after another, and what stands in for those that are not there. */
export function colourMeaning(t: TaggedPicture): { readonly tag: string; readonly name: string; readonly meaning: string }[] {
  const c = t.colour
  const seen = seenColour(t)
  const row = (tag: string, table: Readonly<Record<string, Words>>, code: string, assumed: string) => ({
    tag,
    name: isTagged(code) ? nameOf(table, code) : 'not tagged',
    meaning: isTagged(code)
      ? (table[code]?.[1] ?? 'a tag that Naranja does not know; it is passed on unchanged')
      : `read as ${nameOf(table, assumed)}, by its ${Math.min(t.width, t.height)} lines`,
  })
  return [
    row('Primaries', primaries, c.primaries, seen.primaries),
    row('Transfer', transfers, c.transfer, seen.transfer),
    row('Matrix', matrices, c.matrix, seen.matrix),
    {
      tag: 'Range',
      name: c.range === 'pc' ? 'full' : c.range === 'tv' ? 'limited' : 'not tagged',
      meaning:
        c.range === 'pc'
          ? 'black is 0 and white the largest value'
          : c.range === 'tv'
            ? 'black is 16 and white 235 of 255, as television has it'
            : 'read as limited where brightness and colour stand apart, as full for RGB',
    },
  ]
}
