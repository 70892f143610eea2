/** What the folders above a file say of it: its reel, its roll and its day. */

/** Folders that cameras make by themselves on every card, whatever the card is called. */
const cameraFolders = new Set(
  (
    'private dcim avchd bdmv stream clipinf playlist mp_root m4root xdroot bpav clpr takr contents content clip clips video audio voice icon ' +
    'proxy sub thmbnl general edit take userdata media essence misc event avf_info hvr'
  ).split(' '),
)
/** The same with numbers: three digits and five characters (DCF, JEITA CP-3461, 3.2.3), and numbered folders of clips. */
const cameraFolder = /^[1-9]\d\d[a-z0-9_]{5}$|^clips?[_-]?\d{1,4}$/i
const plainFolder = /^(originals?|footage|rushes|volumes?|backups?)$/i
const dayFolder = /^(shooting[\s_-]*)?day[\s_-]*\d+$|^\d{4}[-_]?\d{2}[-_]?\d{2}$/i
const reelFolder = /^[A-Za-z]{1,4}[_-]?\d{2,5}[A-Za-z]?\d{0,2}([_-][A-Za-z0-9]{1,8})*$/
const numberedFolder = /^(card|clip|day|take|mag|roll)[_-]?\d/i
const cardFolder = /(^|[\s_-])(card|mag|magazine|roll|reel)[\s_-]*[A-Za-z]{0,2}\d+/i

const isCameraFolder = (name: string): boolean => cameraFolders.has(name.toLowerCase()) || cameraFolder.test(name)
const isReel = (name: string): boolean => reelFolder.test(name) && !numberedFolder.test(name)

export interface FolderFacts {
  readonly reel: string | null
  readonly roll: string | null
  readonly day: string | null
}

/**
 * What the folders above a clip say of it. `folders`: from the volume's own name down to the clip's folder. `ticked`: which of them a
 * person chose to take in; it counts before all others where it names a card. `clip`: the clip's name without extension; a folder of that
 * name is the clip's own. Folders that cameras make are passed over.
 *
 * The reel is the nearest folder that looks like one (letters and at least two digits); the roll that, else the nearest that names a card
 * (`CARD01`, `Deck card 2`), else the nearest that is no day and says anything; the day the nearest that names one.
 */
export function folderFacts(folders: readonly string[], { ticked = 0, clip = '' }: { ticked?: number; clip?: string } = {}): FolderFacts {
  const near = [...folders].reverse()
  const own = clip.toLowerCase()
  const telling = (list: readonly string[]) => list.filter((f) => !isCameraFolder(f) && !plainFolder.test(f) && !dayFolder.test(f) && f.toLowerCase() !== own)
  const all = telling(near)
  const first = [...telling(folders.slice(ticked, ticked + 1)), ...all]
  const reel = first.find(isReel) ?? null
  return { reel, roll: reel ?? first.find((f) => cardFolder.test(f)) ?? all[0] ?? null, day: near.find((f) => dayFolder.test(f)) ?? null }
}
