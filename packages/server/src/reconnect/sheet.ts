/** A sheet of a cut to print: one row for each event, where it landed and why, with its pictures beside the original's. */
import { readFile } from 'node:fs/promises'
import { addressOf, type LinkRow, routes, type Viewing } from '@naranja/contract'
import { clockOf, type CutEvent, pointsOf } from '@naranja/core/cutlist'
import { frameAt } from '@naranja/core/reconnect'
import { formatFrames, rateText, timecodeText } from '@naranja/core/time'
import { cutOf, linksOf } from '../cuts/index.ts'
import { type Context, plural } from '../platform/index.ts'
import { hasPictures } from '../sources/index.ts'
import { measuredCut } from './measure.ts'
import { linkRows } from './service.ts'

const safe = (text: string | null | undefined): string => (text ?? '').replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)

const picture = (of: string, address: string): string => `<img loading="lazy" alt="${of}" src="${safe(address)}">`

/** Words and silhouettes of states, so that a sheet printed without colour says the same. */
const states: Readonly<Record<LinkRow['state'], readonly [sign: string, word: string]>> = {
  certain: ['●', 'certain'],
  likely: ['≈', 'likely'],
  several: ['Y', 'several'],
  'not-found': ['□', 'not found'],
  'set-by-hand': ['■', 'set by hand'],
  confirmed: ['✓', 'confirmed'],
  'none-needed': ['–', 'needs none'],
}

const look = `
  @page { size: A4 landscape; margin: 10mm }
  body { font: 11px/1.35 "Hanken Grotesk Variable", system-ui, sans-serif; color: #191919; background: #fff; margin: 16px }
  h1 { font-size: 17px; margin: 0 0 2px } p { margin: 0 0 10px; color: #444 }
  table { border-collapse: collapse; width: 100% } thead { display: table-header-group }
  th { text-align: left; font-weight: 600; border-bottom: 1px solid #191919; padding: 3px 6px 3px 0 }
  td { border-bottom: 1px solid #c6c6c6; padding: 4px 6px 4px 0; vertical-align: top } tr { break-inside: avoid }
  .mono { font-family: "JetBrains Mono Variable", monospace; font-size: 10px; white-space: nowrap }
  img { width: 112px; height: 63px; object-fit: contain; background: #141414; display: block; margin-bottom: 2px }
  td:last-child { white-space: nowrap }
  .pair { display: inline-block; margin-right: 4px } .open { font-weight: 600 }
  @media print { .screen { display: none } }`

/** Type as the application has it, within the page, so that a sheet that was saved keeps it. */
async function faces({ text, mono }: Context['config']['fonts']): Promise<string> {
  const face = async (family: string, path: string) =>
    `@font-face { font-family: "${family}"; font-weight: 100 900; src: url(data:font/woff2;base64,${await readFile(path, 'base64')}) format("woff2") }`
  return (await Promise.all([face('Hanken Grotesk Variable', text), face('JetBrains Mono Variable', mono)])).join('\n')
}

/** The sheet as a page of its own. `pictures`: how many frames of each event are shown (1: the middle, 3: first, middle and last). */
export async function cutSheet(ctx: Context, cutId: string, viewing: Viewing, pictures: 0 | 1 | 3): Promise<string> {
  const record = await cutOf(ctx, cutId)
  const [rows, { clips, links: tied }, run, type] = await Promise.all([
    linkRows(ctx, cutId),
    linksOf(ctx, record),
    measuredCut(ctx, cutId),
    faces(ctx.config.fonts),
  ])
  const { cut } = record
  const links = new Map(rows.map((r) => [r.eventId, r]))
  const positions = new Map(tied.map((l) => [l.eventId, l.at]))
  const rates = new Map(clips.map((c) => [c.id, c]))
  const counts = new Map<string, number>()
  for (const r of rows) counts.set(states[r.state][1], (counts.get(states[r.state][1]) ?? 0) + 1)

  const measured = new Map(run.events.filter((m) => !m.stale).map((m) => [m.eventId, m.points]))
  const places = pictures === 0 ? [] : pictures === 1 ? (['middle'] as const) : (['first', 'middle', 'last'] as const)
  const alike = (id: string, place: (typeof places)[number]): string => {
    const p = measured.get(id)?.find((m) => m.at === place)
    if (!p) return ''
    const off = p.offset === 0 ? '' : `, likelier ${plural(Math.abs(p.offset), 'frame')} ${p.offset > 0 ? 'later' : 'earlier'}`
    return `<br>${Math.round(p.likeness * 100)} %${p.still ? ', still' : off}`
  }
  const shown = (e: CutEvent, l: LinkRow | undefined): string => {
    if (e.medium !== 'picture') return ''
    const clip = l?.clipId ? rates.get(l.clipId) : undefined
    const at = pointsOf(e)
    return places
      .map((place) => {
        const k = at[place]
        const position = positions.get(e.id)
        const frame = position ? frameAt(position, k) : 0
        const edit = hasPictures(record) ? picture('the edit', addressOf(routes.editStill, { cutId, event: e.id, frame: k, width: 224 })) : ''
        const own = clip && !l?.away ? picture('the original', addressOf(routes.clipStill, { clipId: clip.id, frame, width: 224, viewing })) : ''
        return edit || own ? `<span class="pair">${edit}${own}<span class="mono">${clip ? `frame ${frame}` : ''}${alike(e.id, place)}</span></span>` : ''
      })
      .join('')
  }
  const body = cut.events.map((e) => {
    const l = links.get(e.id)
    const [sign, word] = l ? states[l.state] : ['', '']
    const chosen = l?.candidates.find((c) => c.clipId === l.clipId)
    return `<tr><td class="mono">${e.track}<br>${safe(e.number)}</td>
<td class="mono">${formatFrames(e.recordIn, cut.rate, cut.drop)}<br>${formatFrames(e.recordOut, cut.rate, cut.drop)}<br>${plural(e.recordOut - e.recordIn, 'frame')}</td>
<td class="mono">${timecodeText(e.sourceIn)}<br>${safe(e.reel)}<br>${safe(clockOf(e))}</td>
<td>${safe(e.clipName)}</td>
<td class="${l?.state === 'several' || l?.state === 'not-found' ? 'open' : ''}">${sign} ${word}${l?.away ? ', original away' : ''}</td>
<td>${chosen ? `${safe(chosen.place)}${safe(chosen.name)}<br><span class="mono">frames ${chosen.range.in}–${chosen.range.out - 1}</span>` : ''}</td>
<td>${safe(l?.reason)}</td>
<td>${shown(e, l)}</td></tr>`
  })
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${safe(record.name)}: sheet</title><style>${type}${look}</style></head><body>
<h1>${safe(record.name)}</h1>
<p>${plural(cut.events.length, 'event')}, ${formatFrames(cut.length, cut.rate, false)} at ${rateText(cut.rate)} fps: ${[...counts].map(([w, n]) => `${n} ${w === 'needs none' && n > 1 ? 'need none' : w}`).join(', ')}. ${new Date().toISOString().slice(0, 16).replace('T', ' ')} UTC.
<span class="screen">Print it from the browser; rows stay whole.</span></p>
<table><thead><tr><th>Event</th><th>Record</th><th>Source</th><th>Name in the list</th><th>State</th><th>Original</th><th>Why</th><th>${hasPictures(record) ? 'Edit above, original below' : 'Original'}</th></tr></thead><tbody>
${body.join('\n')}
</tbody></table></body></html>`
}
