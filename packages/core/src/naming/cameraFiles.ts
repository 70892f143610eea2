/** What files are by their extensions: what is looked into, and what a camera writes that nothing here may be able to read. */

/** Movies that are looked into; what they are coded in decides whether they can be read. */
const movies = 'mov mp4 m4v mxf mkv avi mts m2ts m2t ts mpg mpeg mp2 vob mod tod 3gp 3g2 dv dif wmv asf flv webm ogv lrv insv gxf lxf'
/** Raw video in one file of a camera maker's own form: hardly any of it can be developed here. */
const rawVideo = 'r3d braw crm rmf nev cine mlv vrw'
/** Raw pictures of a camera maker's own form, which cannot be developed here; numbered ones are a sequence. */
const rawPictures = 'ari arx cr2 cr3 nef nrw arw orf rw2 raf pef 3fr iiq cri'
const sounds = 'wav bwf rf64 aif aiff flac mp3 m4a'
const pictures = 'png dpx tif tiff exr dng jpg jpeg'

const set = (words: string): ReadonlySet<string> => new Set(words.split(' '))
const [movieSet, rawVideoSet, rawPictureSet, soundSet, pictureSet] = [movies, rawVideo, rawPictures, sounds, pictures].map(set) as [
  ReadonlySet<string>,
  ReadonlySet<string>,
  ReadonlySet<string>,
  ReadonlySet<string>,
  ReadonlySet<string>,
]

const extension = (name: string): string => name.slice(name.lastIndexOf('.') + 1).toLowerCase()

export type MediaKind = 'movie' | 'raw-video' | 'sound' | 'picture' | 'raw-picture'

/** Of which kind a file is by its extension; null where it is no media file. */
export function mediaKind(name: string): MediaKind | null {
  const ending = extension(name)
  if (movieSet.has(ending)) return 'movie'
  if (rawVideoSet.has(ending)) return 'raw-video'
  if (soundSet.has(ending)) return 'sound'
  if (pictureSet.has(ending)) return 'picture'
  return rawPictureSet.has(ending) ? 'raw-picture' : null
}
