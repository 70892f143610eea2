import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import type { Link } from '../reconnect/index.ts'
import { formatFrames, length, rate, sourceFrame, sourceLength, stepOf } from '../time/index.ts'
import { cutToEdl, cutToOtio } from '../exchange/index.ts'
import { blocked, type Keep, makePlan, type Plan, type PlanClip, type PlanEvent, planPulls, type PlanOptions, pointFrom } from './index.ts'

const pal = rate(25)
const options: PlanOptions = { width: 1920, height: 1080, handles: 10, placeholders: false }
const clips = new Map<string, PlanClip>(
  [
    { id: 'a', name: 'a.mov', rate: pal, frames: 200, width: 1920, height: 1080, pixelAspect: 1, holes: [] },
    { id: 'b', name: 'b.mov', rate: pal, frames: 100, width: 1280, height: 720, pixelAspect: 1, holes: [] },
    { id: 'h', name: 'h.mov', rate: rate(50), frames: 300, width: 1920, height: 1080, pixelAspect: 1, holes: [] },
    { id: 's', name: 's', rate: pal, frames: 100, width: 1920, height: 1080, pixelAspect: 1, holes: [30, 31] },
  ].map((c) => [c.id, c]),
)

interface Row {
  clip: string | null
  first: number
  length: number
  dissolve?: number
  gap?: number
  track?: string
  at?: number
}
/** A cut and links as if reconnected: `first` counts from the clip's first frame. */
function made(rows: Row[], o: Partial<PlanOptions> = {}): { plan: Plan; cut: ReturnType<typeof assembleCut>; links: Link[] } {
  let at = 0
  const t = (f: number) => formatFrames(f, pal)
  const lines = rows.map((r, i) => {
    const from = r.at ?? at + (r.gap ?? 0)
    at = from + r.length
    const transition = r.dissolve ? `D    ${String(r.dissolve).padStart(3, '0')}` : 'C       '
    return `${String(i + 1).padStart(3, '0')}  R${i}       ${r.track ?? 'V'}     ${transition} 00:00:00:00 ${t(r.length)} ${t(90000 + from)} ${t(90000 + from + r.length)}\n* FROM CLIP NAME: ${r.clip ?? 'x'}`
  })
  const cut = assembleCut('cut', pal, [readEdl(lines.join('\n'), { rate: pal, file: 'x' }).value])
  const links = cut.events.map((e): Link => {
    const r = rows[Number(e.number) - 1] as Row
    const c = r.clip ? clips.get(r.clip) : undefined
    const span = c ? sourceLength(r.length, stepOf(c.rate, pal)) : 0
    return {
      eventId: e.id,
      state: c ? 'certain' : 'not-found',
      away: false,
      fromCopy: false,
      clipId: c?.id ?? null,
      range: c ? { in: r.first, out: r.first + span } : null,
      at: c ? { first: r.first, k: 0, step: stepOf(c.rate, pal) } : null,
      countedAt: c ? 'list' : null,
      reason: '',
      beyond: '',
      candidates: [],
    }
  })
  return { plan: makePlan(cut, links, clips, { ...options, ...o }), cut, links }
}

/** What a record frame shows, as clip and frame; a pair in a dissolve. */
function shows(plan: Plan, f: number): string {
  const p = plan.parts.find((x) => x.in <= f && f < x.out)
  return (p?.layers ?? [])
    .map((l) =>
      l.kind === 'clip'
        ? `${l.clipId}${sourceFrame(l.first, l.k + f - (p?.in ?? 0), l.step)}`
        : l.kind === 'black'
          ? 'black'
          : `placeholder${l.k + f - (p?.in ?? 0)}`,
    )
    .join('+')
}

describe('the parts of a picture', () => {
  it('are cuts, dissolves and black, without a frame between', () => {
    const { plan } = made([
      { clip: 'a', first: 10, length: 20 },
      { clip: 'b', first: 5, length: 30, dissolve: 8 },
      { clip: 'h', first: 40, length: 10, gap: 5 },
    ])
    expect([0, 19, 20, 27, 28, 49, 50, 54, 55, 56].map((f) => shows(plan, f))).toEqual([
      'a10',
      'a29',
      'a30+b5',
      'a37+b12',
      'b13',
      'b34',
      'black',
      'black',
      'h40',
      'h42',
    ])
    expect(plan.length).toBe(65)
  })
  it('let a higher track cover a lower one', () => {
    const { plan } = made([
      { clip: 'a', first: 0, length: 30 },
      { clip: 'b', first: 50, length: 10, track: 'V2', at: 10 },
    ])
    expect([9, 10, 19, 20].map((f) => shows(plan, f))).toEqual(['a9', 'b50', 'b59', 'a20'])
  })
  it('show placeholders only when told', () => {
    const rows = [
      { clip: 'a', first: 0, length: 10 },
      { clip: null, first: 0, length: 5 },
    ]
    expect(blocked(made(rows).plan).map((e) => [e.number, e.block])).toEqual([['002', 'no original was found']])
    const { plan } = made(rows, { placeholders: true })
    expect(blocked(plan)).toEqual([])
    expect([9, 10, 14].map((f) => shows(plan, f))).toEqual(['a9', 'placeholder0', 'placeholder4'])
  })
  it('show the highest track that has an event at a frame, whatever lies below', () => {
    const row = fc.record({ at: fc.nat(60), length: fc.integer({ min: 1, max: 20 }), track: fc.constantFrom('V', 'V2', 'V3'), clip: fc.constantFrom('a', 'h') })
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 9 }), (rows) => {
        // Events of one track do not overlap here: what they do then is told elsewhere.
        const list = rows.filter((r, i) => !rows.some((o, k) => k < i && o.track === r.track && o.at < r.at + r.length && r.at < o.at + o.length))
        const { plan } = made(list.map((r) => ({ ...r, first: 0 })))
        const start = Math.min(...list.map((r) => r.at))
        for (let f = 0; f < plan.length; f++) {
          const top = ['V3', 'V2', 'V'].map((t) => list.find((r) => r.track === t && r.at <= f + start && f + start < r.at + r.length)).find((r) => r)
          expect([f, shows(plan, f)]).toEqual([
            f,
            top ? `${top.clip}${sourceFrame(0, f + start - top.at, stepOf(clips.get(top.clip)?.rate ?? pal, pal))}` : 'black',
          ])
        }
      }),
    )
  })
  it('cover every record frame exactly once, whatever the cut', () => {
    const row = fc.record({
      clip: fc.constantFrom('a', 'b', 'h', null),
      first: fc.nat(60),
      length: fc.integer({ min: 2, max: 25 }),
      dissolve: fc.nat(12),
      gap: fc.nat(6),
      track: fc.constantFrom('V', 'V2'),
    })
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 10 }), (rows) => {
        const { plan } = made(
          rows.map((r) => ({ ...r, dissolve: Math.min(r.dissolve, r.length) })),
          { placeholders: true },
        )
        let at = 0
        for (const p of plan.parts) {
          expect(p.in).toBe(at)
          expect(p.out).toBeGreaterThan(p.in)
          at = p.out
        }
        expect(at).toBe(plan.length)
      }),
    )
  })
})

describe('an event of the plan', () => {
  it('reports its own range, and uses the tail that the next dissolve shows', () => {
    const { plan } = made([
      { clip: 'a', first: 10, length: 20 },
      { clip: 'b', first: 5, length: 30, dissolve: 8 },
    ])
    expect(plan.events[0]).toMatchObject({ source: { in: 10, out: 30 }, used: { in: 10, out: 38 } })
  })
  it('counts handles through its speed, as far as there are any', () => {
    const { plan } = made([{ clip: 'h', first: 6, length: 100 }])
    expect(plan.events[0]?.handles).toEqual({ wanted: 20, head: 6, tail: 20 })
    expect(plan.events[0]?.notes.map((n) => n.code)).toEqual(['other-rate', 'short-handles'])
  })
  it.each([
    ['frames past the end', { clip: 'b', first: 90, length: 20 }, 'it needs 10 frames beyond the end of b.mov'],
    ['numbers missing in a sequence', { clip: 's', first: 25, length: 10 }, '2 of its frames are missing from s'],
  ])('that lacks %s stops the master', (_what, row, block) => expect(made([row]).plan.events[0]?.block).toBe(block))
  it('that lacks some of its frames shows those there are; placeholders stand for the others alone, or the picture beside them is held', () => {
    const row = { clip: 'b', first: 90, length: 20 }
    const { plan } = made([row], { placeholders: true })
    expect(plan.events[0]).toMatchObject({ missing: 10, partial: true, placeholder: true })
    expect(plan.parts.map((p) => [p.in, p.out, p.layers[0].kind])).toEqual([
      [0, 10, 'clip'],
      [10, 20, 'placeholder'],
    ])
    const held = made([row], { missing: 'held' }).plan
    expect([held.events[0]?.block, held.events[0]?.missing]).toEqual([null, 10])
    expect([0, 9, 10, 19].map((f) => shows(held, f))).toEqual(['b90', 'b99', 'b99', 'b99'])
  })
  it('that begins before its clip, or is the outgoing side of a dissolve past its end, does so too', () => {
    const early = made([{ clip: 'b', first: -5, length: 10 }], { missing: 'held' }).plan
    expect([0, 4, 5, 9].map((f) => shows(early, f))).toEqual(['b0', 'b0', 'b0', 'b4'])
    const { plan } = made(
      [
        { clip: 'b', first: 80, length: 16 },
        { clip: 'a', first: 20, length: 30, dissolve: 10 },
      ],
      { placeholders: true },
    )
    expect(plan.parts.map((p) => [p.in, p.out, p.layers.map((l) => l.kind), p.mix?.from])).toEqual([
      [0, 16, ['clip'], undefined],
      [16, 20, ['clip', 'clip'], 0],
      [20, 26, ['placeholder', 'clip'], 4],
      [26, 46, ['clip'], undefined],
    ])
    expect([plan.events[0]?.missing, plan.events[0]?.block]).toEqual([0, 'it needs 6 frames beyond the end of b.mov'])
  })
  it('never shows a frame that its clip does not have, whatever stands for it', () => {
    const row = fc.record({
      clip: fc.constantFrom('a', 'b', 'h', 's'),
      first: fc.integer({ min: -60, max: 320 }),
      length: fc.integer({ min: 1, max: 90 }),
      dissolve: fc.nat(20),
    })
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 6 }), fc.constantFrom('placeholder' as const, 'held' as const), (rows, missing) => {
        const { plan } = made(
          rows.map((r) => ({ ...r, dissolve: Math.min(r.dissolve, r.length) })),
          { placeholders: true, missing },
        )
        let at = 0
        for (const p of plan.parts) {
          expect([p.in, p.out > p.in]).toEqual([at, true])
          at = p.out
          for (const l of p.layers) {
            if (l.kind !== 'clip') continue
            const clip = clips.get(l.clipId) as PlanClip
            for (let j = 0; j < length(p); j++) {
              const f = sourceFrame(l.first, l.k + j, l.step)
              expect(f >= 0 && f < clip.frames && !clip.holes.includes(f), `${clip.id} ${f}`).toBe(true)
            }
          }
        }
        expect(at).toBe(plan.length)
      }),
    )
  })
  it('warns of enlargement, gaps and overlaps', () => {
    const { plan } = made([
      { clip: 'b', first: 0, length: 20 },
      { clip: 'a', first: 0, length: 20, gap: 3 },
      { clip: 'a', first: 50, length: 20, at: 40 },
    ])
    expect(plan.events.map((e) => e.notes.filter((n) => n.severity === 'warning').map((n) => n.text))).toEqual([
      ['the picture is enlarged to 150 %'],
      ['3 frames of nothing before it'],
      ['it covers the last 3 frames of event 002'],
    ])
  })
})

describe('pulls', () => {
  it('are used ranges with handles, joined where they overlap', () => {
    const { plan } = made([
      { clip: 'a', first: 10, length: 20 },
      { clip: 'b', first: 50, length: 10 },
      { clip: 'a', first: 45, length: 10 },
      { clip: 'a', first: 150, length: 20 },
    ])
    expect(planPulls(plan)).toEqual([
      { clipId: 'a', range: { in: 0, out: 65 }, eventIds: ['cut/V1/001', 'cut/V1/003'] },
      { clipId: 'a', range: { in: 140, out: 180 }, eventIds: ['cut/V1/004'] },
      { clipId: 'b', range: { in: 40, out: 70 }, eventIds: ['cut/V1/002'] },
    ])
  })
  it('never reach outside their clip, and hold every frame that is used', () => {
    const row = fc.record({ clip: fc.constantFrom('a', 'b', 'h'), first: fc.nat(60), length: fc.integer({ min: 2, max: 20 }) })
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 8 }), fc.nat(80), (rows, handles) => {
        const { plan } = made(rows, { handles })
        const pulls = planPulls(plan)
        for (const p of pulls) expect(p.range.in >= 0 && p.range.out <= (clips.get(p.clipId)?.frames ?? 0) && length(p.range) > 0).toBe(true)
        for (const e of plan.events)
          if (!e.block && e.used)
            expect(pulls.filter((p) => p.clipId === e.clipId && p.range.in <= (e.used?.in ?? 0) && p.range.out >= (e.used?.out ?? 0))).toHaveLength(1)
      }),
    )
  })
})

describe('lists that point at other files', () => {
  it('say the same cut in the files’ own timecode', () => {
    const { plan, cut } = made([
      { clip: 'a', first: 10, length: 20 },
      { clip: 'h', first: 40, length: 10, dissolve: 4 },
    ])
    const refer = (id: string) =>
      id.endsWith('001')
        ? { name: 'pull_a.mov', url: '/p/pull_a.mov', reel: 'A001', rate: pal, drop: false, start: 900005, frames: 50, offset: 5 }
        : { name: 'pull_h.mov', url: '/p/pull_h.mov', reel: 'H001', rate: rate(50), drop: false, start: 12 * 3600 * 50 + 30, frames: 60, offset: 30 }
    const { files, losses } = cutToEdl(cut, pointFrom(plan, refer))
    const text = files[0]?.text ?? ''
    expect(losses).toEqual([])
    const back = readEdl(text, { rate: pal, file: 'x' })
    expect(back.problems).toEqual([])
    expect(back.value.events.map((e) => [e.reel, e.clipName, e.sourceFile, e.sourceIn, e.recordIn, e.recordOut, e.transition.frames])).toEqual([
      ['A001', 'pull_a.mov', '/p/pull_a.mov', { h: 10, m: 0, s: 0, f: 10, drop: false }, 90000, 90020, 0],
      // Frame 40 at 50 is frame 20 as a list at 25 counts.
      ['H001', 'pull_h.mov', '/p/pull_h.mov', { h: 12, m: 0, s: 0, f: 20, drop: false }, 90020, 90030, 4],
    ])
    const otio = JSON.parse(cutToOtio(cut, pointFrom(plan, refer)).text)
    const [a, transition, h] = otio.tracks.children[0].children
    expect([a.OTIO_SCHEMA, a.media_references.DEFAULT_MEDIA.target_url, a.source_range.start_time.value, a.source_range.duration.value]).toEqual([
      'Clip.2',
      '/p/pull_a.mov',
      900010,
      20,
    ])
    expect([transition.OTIO_SCHEMA, transition.out_offset.value]).toEqual(['Transition.1', 4])
    expect([h.source_range.start_time.rate, h.source_range.duration.value, h.media_references.DEFAULT_MEDIA.available_range.start_time.value]).toEqual([
      50, 20, 2160030,
    ])
  })
  it('come back as the same cut, whatever it holds', () => {
    const row = fc.record({
      clip: fc.constantFrom('a', 'b', 'h', null),
      first: fc.nat(30),
      length: fc.integer({ min: 2, max: 25 }),
      dissolve: fc.nat(8),
      gap: fc.nat(3),
    })
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 8 }), (rows) => {
        const { plan, cut } = made(
          rows.map((r) => ({ ...r, dissolve: Math.min(r.dissolve, r.length) })),
          { placeholders: true },
        )
        const refer = (id: string) => {
          const e = plan.events.find((x) => x.eventId === id)
          const c = e?.clipId ? clips.get(e.clipId) : undefined
          return c
            ? {
                name: `${c.id}.mov`,
                url: `/p/${c.id}.mov`,
                reel: `R_${c.id}`,
                rate: c.rate,
                drop: false,
                start: c.rate.num * 3600,
                frames: c.frames,
                offset: 0,
              }
            : null
        }
        const { files, losses } = cutToEdl(cut, pointFrom(plan, refer))
        const text = files[0]?.text ?? ''
        const back = readEdl(text, { rate: pal, file: 'x' })
        // Every other frame at 50 has no name in a list at 25, and that is said.
        expect([back.problems, losses.filter((l) => !l.includes('no name of its own'))]).toEqual([[], []])
        // A dissolve with nothing before it comes from black, said or not.
        const black = (e: (typeof cut.events)[number], before?: (typeof cut.events)[number]) =>
          e.transition.frames > 0 && (e.transition.fromBlack || before?.recordOut !== e.recordIn)
        const said = (list: typeof cut.events) => list.map((e, i) => [e.track, e.recordIn, e.recordOut, e.transition.frames, black(e, list[i - 1])])
        expect(said(back.value.events)).toEqual(said(cut.events))
        for (const [i, e] of back.value.events.entries()) {
          const p = plan.events[i]
          if (!p?.source || !refer(p.eventId)) continue
          // Hour one of the file, and the second in which the event begins.
          const c = clips.get(p.clipId ?? '') as PlanClip
          expect([e.clipName, e.sourceIn.h, e.sourceIn.s]).toEqual([`${c.id}.mov`, 1, Math.floor((p.source.in * c.rate.den) / c.rate.num)])
        }
      }),
    )
  })
})

describe('sound', () => {
  it('follows its own events, placed from the first frame of clip and cut', () => {
    const { plan } = made([
      { clip: 'a', first: 10, length: 20 },
      { clip: 'a', first: 12, length: 10, track: 'A', at: 5 },
      { clip: 'h', first: 40, length: 4, track: 'A2', at: 16 },
    ])
    expect(plan.soundTracks).toBe(2)
    expect(plan.sound.map((s) => [s.track, s.in, s.out, s.clipId, s.first])).toEqual([
      ['A1', 5, 15, 'a', 12],
      ['A2', 16, 20, 'h', 40],
    ])
  })
  it('without an event is silent: no track at all', () => expect(made([{ clip: 'a', first: 0, length: 5 }]).plan.soundTracks).toBe(0))
})

describe('a plan that is made again and again', () => {
  it('is the same whether what was planned is kept or not, whatever changed between', () => {
    const { cut, links } = made([
      { clip: 'a', first: 10, length: 30 },
      { clip: 'b', first: 5, length: 20, dissolve: 8 },
      { clip: 'h', first: 40, length: 25, gap: 3 },
      { clip: 'a', first: 35, length: 10 },
    ])
    const kept = new Map<string, { from: readonly unknown[]; event: PlanEvent }>()
    const keep: Keep = (id, from, make) => {
      const old = kept.get(id)
      const event = old?.from.every((x, i) => x === from[i]) ? old.event : make()
      kept.set(id, { from, event })
      return event
    }
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(3), fc.boolean(), fc.boolean()), { maxLength: 6 }), (steps) => {
        let now = links
        let known = clips
        for (const [i, lost, smaller] of steps) {
          // Another link, or the same clip otherwise.
          if (lost) now = now.map((l, n) => (n === i ? { ...l, state: 'not-found', clipId: null, range: null } : l))
          if (smaller) known = new Map([...known].map(([id, c]) => [id, id === 'a' ? { ...c, frames: 30 } : c]))
          const o = { ...options, placeholders: true }
          expect(makePlan(cut, now, known, o, keep)).toEqual(makePlan(cut, now, known, o))
        }
      }),
    )
  })
})
