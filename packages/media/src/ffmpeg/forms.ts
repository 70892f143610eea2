/**
 * What FFmpeg may open. Only forms that hold their own pictures and sound: none that names other files or addresses (playlists, presentations,
 * lists of files, scripts, descriptions of sessions), and none that is looked for beside the file. And only from the disk.
 */
import { type FileHandle, open } from 'node:fs/promises'
import { boxesIn, fileArgument, lastName, pathText } from '../disk/index.ts'

/** FFmpeg's names of demuxers. */
const safeForms = [
  ...['mov', 'matroska', 'mxf', 'avi', 'mpegts', 'mpeg', 'gxf', 'lxf', 'asf', 'flv', 'ogg', 'nut', 'dv', 'cine', 'ser', 'yuv4mpegpipe', 'ivf'],
  ...['mpegvideo', 'm4v', 'h263', 'h264', 'hevc', 'av1', 'obu', 'vc1', 'mjpeg', 'dnxhd', 'dirac', 'rm', 'wtv'],
  ...['wav', 'w64', 'aiff', 'caf', 'au', 'flac', 'mp3', 'aac', 'ac3', 'eac3', 'dts', 'truehd', 'mlp', 'amr', 'ape', 'wv', 'tta', 'tak', 'dsf', 'iff'],
  ...['png', 'jpeg', 'jpegls', 'j2k', 'tiff', 'dpx', 'exr', 'bmp', 'webp', 'psd', 'sgi', 'ppm', 'pgm', 'pbm', 'pam', 'pfm', 'cri'].map((n) => `${n}_pipe`),
].join(',')

/** What stands before an input that is a file: the forms it may have (those that are safe, or the one that it was found to have), and where it may be. */
export const guards = (form: string | null = null): string[] => ['-format_whitelist', form ?? safeForms, '-protocol_whitelist', 'file']

/** A file as FFmpeg's input. */
export const fileInput = (path: Uint8Array | string, form: string | null = null): string[] => [...guards(form), '-i', fileArgument(Buffer.from(path))]

/** Text in any usual coding: no media file begins with half a kilobyte of it. */
function isText(head: Buffer): boolean {
  if (head.length === 0) return false
  const [a, b] = [head[0], head[1]]
  // UTF-16, with a byte order mark or by its zeros.
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff)) return true
  const zeros = [0, 1].map((at) => head.filter((x, i) => i % 2 === at && x === 0).length)
  if (head.length > 16 && zeros.some((z, at) => z > head.length * 0.4 && (zeros[1 - at] ?? 0) === 0)) return true
  // UTF-8, but for a letter that is cut at the end; or an older coding of single bytes.
  // Nothing may follow it.
  const end = head.findLastIndex((x) => x !== 0) + 1
  if (end < head.length && end >= 16) return isText(head.subarray(0, end))
  const printable = (x: number) => x === 9 || x === 10 || x === 12 || x === 13 || x >= 32
  if (!head.every((x) => printable(x) && x !== 127)) return false
  const text = head.toString('utf8').replace(/\ufffd{1,3}$/, '')
  return !text.includes('\ufffd') || head.every((x) => x < 128 || x >= 160)
}

/** Boxes that hold others, on the way to where a movie says where its data is (ISO/IEC 14496-12, 8.7.2). */
const way = new Set(['moov', 'trak', 'mdia', 'minf', 'dinf'])

/** The first file or address outside of itself that a movie takes its data from; null where it holds all of it. */
async function externalData(file: FileHandle, from: number, to: number, left = { boxes: 20_000 }): Promise<string | null> {
  for await (const b of boxesIn(file, from, to)) {
    if (left.boxes-- <= 0 || b.end < b.body) return null
    const { type, body } = b
    const end = Math.min(to, b.end)
    if (way.has(type)) {
      const found = await externalData(file, body, end, left)
      if (found !== null) return found
    } else if (type === 'dref') {
      const data = Buffer.alloc(Math.min(end - body, 100_000))
      await file.read(data, 0, data.length, body)
      for (let p = 8; p + 12 <= data.length; ) {
        const length = data.readUInt32BE(p)
        // The lowest flag says that the data is in this file.
        if (((data[p + 11] ?? 1) & 1) === 0)
          return data
            .toString('latin1', p + 12, Math.min(data.length, p + Math.max(12, length)))
            .replace(/[^\x20-\x7e]+/g, ' ')
            .trim()
            .slice(-120)
        if (length < 12) break
        p += length
      }
    }
  }
  return null
}

/** Why a file is not given to FFmpeg at all: it is a text, or takes its pictures from elsewhere. Null where neither is so. Throws the error of reading it. */
export async function pointsElsewhere(path: Uint8Array): Promise<string | null> {
  const name = pathText(lastName(path))
  const file = await open(Buffer.from(path), 'r')
  try {
    const head = Buffer.alloc(512)
    const { bytesRead } = await file.read(head, 0, 512, 0)
    if (isText(head.subarray(0, bytesRead)))
      return `${name} is a text, not a movie, whatever its name says. Leave it out, or find the file that should be here.`
    if (!/^(ftyp|moov|mdat|wide|free|skip|pnot|uuid)$/.test(head.toString('latin1', 4, 8))) return null
    const elsewhere = await externalData(file, 0, (await file.stat()).size)
    return elsewhere === null
      ? null
      : `${name} does not hold its own pictures or sound: it takes them from another file${elsewhere ? ` (${elsewhere})` : ''}, which is not opened. Take in that file instead.`
  } finally {
    await file.close()
  }
}
