/** A page of the guide, beside the list of all pages. */
import { type MouseEvent, useEffect, useRef, useState } from 'react'
import { Link, NavLink, useNavigate, useParams } from 'react-router'
import { Loading, Segments } from '../ui/index.ts'
import { guidePages } from './pages.ts'

const files = import.meta.glob<string>('../../../../docs/guide/*.md', { import: 'default' })

/** How the text looks: pictures as wide as there is room, lines of words no longer than one reads. */
const textLook = [
  'max-w-[1000px] leading-[1.55] text-ink-2 [&_h1,&_h2,&_strong,&_th]:text-ink',
  '[&_h1]:mt-0 [&_h1]:mb-3 [&_h1]:text-2xl [&_h1]:font-[650] [&_h2]:mt-7 [&_h2]:mb-2 [&_h2]:text-[16px] [&_h2]:font-[650]',
  '[&_p]:my-2.5 [&_p]:max-w-[760px] [&_p:has(img)]:max-w-none [&_strong]:font-[600] [&_a]:text-ink [&_a]:underline',
  '[&_ol]:max-w-[760px] [&_ol]:list-decimal [&_ol]:pl-5 [&_ul]:max-w-[760px] [&_ul]:list-disc [&_ul]:pl-5 [&_li]:my-1',
  '[&_code]:font-mono [&_code]:text-[12px] [&_code]:text-ink',
  '[&_img]:my-4 [&_img]:h-auto [&_img]:w-full [&_img]:rounded-md [&_img]:border [&_img]:border-line',
  '[&_table]:my-3 [&_table]:w-full [&_table]:border-collapse [&_td,&_th]:border-b [&_td,&_th]:border-line [&_td,&_th]:py-1.5 [&_td,&_th]:pr-4',
  '[&_td]:align-top [&_th]:text-left [&_th]:font-[600]',
].join(' ')

export function Guide() {
  const { page: name } = useParams()
  const navigate = useNavigate()
  const page = guidePages.find((p) => p.file === (name ?? 'README')) ?? guidePages[0]
  const file = page?.file ?? 'README'
  const [shown, setShown] = useState<{ file: string; html: string } | null>(null)
  const top = useRef<HTMLElement>(null)
  useEffect(() => {
    let wanted = true
    void files[`../../../../docs/guide/${file}.md`]?.().then((html) => wanted && setShown({ file, html }))
    return () => {
      wanted = false
    }
  }, [file])
  useEffect(() => {
    document.title = `${page?.title} · Naranja`
    if (shown?.file === file) top.current?.scrollTo(0, 0)
  }, [file, page, shown])

  // Links in the text are the application's own addresses.
  const follow = (e: MouseEvent) => {
    const to = (e.target as HTMLElement).closest('a')?.getAttribute('href')
    if (!to?.startsWith('/guide') || e.ctrlKey || e.metaKey || e.shiftKey) return
    e.preventDefault()
    void navigate(to)
  }
  return (
    <div className="grid h-full grid-cols-[230px_minmax(0,1fr)]">
      <nav aria-label="Guide" className="flex flex-col gap-0.5 overflow-auto border-r border-line bg-panel p-3">
        <Link to="/" className="mb-3 flex items-center gap-2 px-2 py-1">
          <Segments stations={['reached', 'reached', 'reached', 'reached']} size={26} />
          <b className="font-[650]">Naranja</b>
        </Link>
        {guidePages.map((p) => (
          <NavLink
            key={p.file}
            to={p.address}
            end
            className={({ isActive }) =>
              `rounded-md px-2 py-[7px] ${isActive ? 'bg-raised text-ink shadow-[inset_0_0_0_1px_var(--line)]' : 'text-ink-2 hover:text-ink'}`
            }
          >
            {p.title}
          </NavLink>
        ))}
      </nav>
      <main ref={top} tabIndex={0} aria-label={page?.title} className="overflow-auto px-10 py-8">
        {shown?.file === file ? (
          // biome-ignore lint/security/noDangerouslySetInnerHtml: docs/guide, made into HTML by the build; nothing that anybody typed
          <div className={textLook} onClick={follow} dangerouslySetInnerHTML={{ __html: shown.html }} />
        ) : (
          <Loading what="the guide" />
        )}
      </main>
    </div>
  )
}
