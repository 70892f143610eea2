/** Files read by Debian's mediainfo, a reader that is not ours. */
import { execa } from 'execa'

/** What it says of a track, in text; `extra` is what only this wrapper has. */
export type Track = Readonly<Record<string, string>> & { readonly extra?: Readonly<Record<string, string>> }

/** What mediainfo says of a file, by kind of track (`General`, `Video`, `Audio`, `Other`); the first of each kind. Throws where it cannot read the file. */
export async function mediainfo(path: string): Promise<Readonly<Record<string, Track>>> {
  const { stdout } = await execa('mediainfo', ['--Full', '--Output=JSON', path])
  const { media } = JSON.parse(stdout) as { media: { track: (Track & { '@type': string })[] } | null }
  if (!media) throw new Error(`mediainfo cannot read ${path}`)
  return Object.fromEntries(media.track.toReversed().map((t) => [t['@type'], t]))
}
