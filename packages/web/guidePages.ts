/** The pages of the guide (docs/guide), made into HTML when the web application is built: they are read offline, as they were when it was built. */
import { Marked } from 'marked'
import type { Plugin } from 'vite'
import { addressOf } from './src/guide/pages.ts'

const isPage = (path: string): boolean => /\/docs\/guide\/[\w-]+\.md$/.test(path)
/** Stands in the HTML where the address of a picture goes, which is known only once the picture is built. */
const pictureAt = (n: number): string => `{{picture ${n}}}`

/** A page as HTML, with the pictures it shows, by the paths that it names them by. Links to other pages lead to their addresses in the application. */
export function pageOf(text: string): { readonly html: string; readonly pictures: readonly string[] } {
  const pictures: string[] = []
  const marked = new Marked({
    renderer: {
      image: ({ href, text: what }) => `<img src="${pictureAt(pictures.push(href) - 1)}" alt="${what}" width="1280" height="800" loading="lazy">`,
      link({ href, tokens }) {
        const page = /^([\w-]+)\.md$/.exec(href)?.[1]
        return `<a href="${page === undefined ? href : addressOf(page)}">${this.parser.parseInline(tokens)}</a>`
      },
    },
  })
  return { html: marked.parse(text, { async: false }), pictures }
}

export const guidePages = (): Plugin => ({
  name: 'guide-pages',
  transform(text, path) {
    if (!isPage(path)) return null
    const { html, pictures } = pageOf(text)
    const imports = pictures.map((p, i) => `import picture${i} from ${JSON.stringify(`${p}?url`)}`)
    const parts = html.split(/\{\{picture (\d+)\}\}/).map((part, i) => (i % 2 ? `picture${part}` : JSON.stringify(part)))
    return { code: `${imports.join('\n')}\nexport default ${parts.join(' + ')}\n`, map: null }
  },
})
