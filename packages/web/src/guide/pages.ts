/** The pages of the guide, in the order of the job. */

export interface GuidePage {
  /** Its file in docs/guide, without the ending. */
  readonly file: string
  readonly address: string
  readonly title: string
}

/** Where the application shows a page. */
export const addressOf = (file: string): string => (file === 'README' ? '/guide' : `/guide/${file}`)
const page = (file: string, title: string): GuidePage => ({ file, address: addressOf(file), title })

export const guidePages: readonly GuidePage[] = [
  page('README', 'First steps'),
  page('originals', '1. Originals'),
  page('edit-copies', '2. Edit copies'),
  page('cut-lists', '3. Cut lists'),
  page('reconnect', '4. Reconnect'),
  page('conform', '5. Conform'),
  page('masters', '6. Masters'),
  page('running', 'Queue, Space and Settings'),
]

/** Screens whose page of the guide is called otherwise. */
const fileOfScreen: Readonly<Record<string, string>> = {
  copies: 'edit-copies',
  specs: 'edit-copies',
  cuts: 'cut-lists',
  queue: 'running',
  space: 'running',
  settings: 'running',
}

/** The page of the guide about the screen at an address of the application; the first page where none is about it. */
export function guideFor(pathname: string): GuidePage {
  const screen = /^\/p\/[^/]+\/([\w-]+)/.exec(pathname)?.[1] ?? ''
  const file = fileOfScreen[screen] ?? screen
  return guidePages.find((p) => p.file === file) ?? (guidePages[0] as GuidePage)
}
