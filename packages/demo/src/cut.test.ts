/** The demo's cut is what it says it is: the truth, the list another program would have written, and what reconnecting makes of it. */
import { assembleCut } from '@naranja/core/cutlist'
import { readEdl } from '@naranja/core/edl'
import { folderFacts } from '@naranja/core/naming'
import { type ClipFacts, reconnect } from '@naranja/core/reconnect'
import { framesOf, parseTimecode, rate, sourceFrame, stepOf } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import {
  awayVolume,
  cameras,
  cutRate,
  cutStart,
  demoClips,
  demoEdl,
  demoSounds,
  lostClip,
  sequenceFirst,
  sequenceMissing,
  trueEvents,
  trueSounds,
} from './index.ts'

const read = readEdl(demoEdl(), { rate: cutRate, file: 'ferry_cut_3.edl' })
const cut = assembleCut('Ferry cut 3', cutRate, [read.value])
const startOf = (timecode: string | null, r = rate(25)) => {
  const t = timecode === null ? null : parseTimecode(timecode)
  return t ? framesOf(t, r) : null
}

/** What taking the demo in finds out, without the files. */
const facts: ClipFacts[] = [
  ...demoClips.map((c): ClipFacts => {
    const folders = [c.volume, ...c.folder.split('/')]
    const telescope = c.camera === 'telescope'
    const reel = c.reel ?? folderFacts(folders).reel
    return {
      id: String(c.code),
      name: telescope ? `${c.name}[${sequenceFirst}–${sequenceFirst + c.frames - 1}].dng` : c.name,
      aliases: telescope ? [`${c.name}${sequenceFirst}.dng`, 'moon'] : [],
      reel,
      reelDerived: c.reel === null,
      place: `${folders.join('/')}/`,
      rate: cameras[c.camera].rate,
      frames: c.frames,
      start: startOf(c.timecode, cameras[c.camera].rate),
      drop: false,
      hasPicture: true,
      hasSound: false,
      contentId: `content ${c.code}`,
      away: c.volume === awayVolume,
    }
  }),
  ...demoSounds.map(
    (s): ClipFacts => ({
      id: s.name,
      name: s.name,
      aliases: [],
      reel: null,
      reelDerived: false,
      place: `${s.volume}/${s.folder}/`,
      rate: cutRate,
      frames: s.frames,
      start: startOf(s.timecode),
      drop: false,
      hasPicture: false,
      hasSound: true,
      contentId: s.name,
      away: false,
    }),
  ),
]
const links = reconnect(cut, facts)
const linkOf = (track: string, number: number) => links.find((l) => l.eventId === `Ferry cut 3/${track}/${String(number).padStart(3, '0')}`)

describe('the originals', () => {
  it('are at least thirty on at least six rolls and cards, each with a number of its own', () => {
    expect(demoClips.length + demoSounds.length).toBeGreaterThanOrEqual(30)
    expect(new Set(demoClips.map((c) => folderFacts([c.volume, ...c.folder.split('/')]).roll)).size).toBeGreaterThanOrEqual(6)
    expect(new Set(demoClips.map((c) => c.code)).size).toBe(demoClips.length)
  })
  it('never share a place, and the two deck cards share their file names', () => {
    const places = demoClips.map((c) => `${c.volume}/${c.folder}/${c.name}`)
    expect(new Set(places).size).toBe(places.length)
    const names = (card: string) => demoClips.filter((c) => c.volume === card).map((c) => c.name)
    expect(names('Deck card 1').filter((n) => names('Deck card 2').includes(n))).toHaveLength(3)
  })
  it('hold at most 45 seconds of the main camera, so that they are made soon', () => {
    const seconds = demoClips.filter((c) => c.camera === 'main').reduce((s, c) => s + c.frames / 25, 0)
    expect(seconds).toBeLessThanOrEqual(45)
  })
})

describe('the truth of the cut', () => {
  it('is without a gap, and never asks a clip for a frame it has not', () => {
    let at = 0
    for (const [i, e] of trueEvents.entries()) {
      expect([e.number, e.in]).toEqual([i + 1, at])
      at = e.out
      if (!e.clip) continue
      // The tail of a dissolve that follows is shown too.
      const shown = e.out - e.in + (trueEvents[i + 1]?.dissolve ?? 0)
      const last = sourceFrame(e.first, shown - 1, stepOf(cameras[e.clip.camera].rate, cutRate))
      expect([e.number, e.first >= 0 && last < e.clip.frames]).toEqual([e.number, true])
    }
    for (const s of trueSounds) expect(s.first + s.out - s.in).toBeLessThanOrEqual(s.sound.frames)
  })
  it('uses no frame that the telescope lost', () => {
    for (const e of trueEvents)
      if (e.clip?.camera === 'telescope')
        for (const n of sequenceMissing) expect(n - sequenceFirst >= e.first && n - sequenceFirst < e.first + e.out - e.in).toBe(false)
  })
  it('has all that makes reconnecting hard', () => {
    expect(trueEvents.length).toBeGreaterThanOrEqual(40)
    expect(trueEvents.some((e) => e.dissolve > 0 && !e.black)).toBe(true)
    expect(trueEvents.some((e) => e.clip?.timecode === null)).toBe(true)
    expect(trueEvents.some((e) => e.clip?.volume === awayVolume)).toBe(true)
    expect(trueEvents.some((e) => e.clip === lostClip)).toBe(true)
    expect(trueEvents.some((e) => e.title)).toBe(true)
    expect(trueEvents.some((e) => e.clip && cameras[e.clip.camera].rate.num !== cutRate.num)).toBe(true)
    expect(demoEdl()).toMatch(/^\d+ {2}B001_SAL /m)
  })
})

describe('the list', () => {
  it('is read without a problem and says the true places in the record', () => {
    expect(read.problems).toEqual([])
    const picture = cut.events.filter((e) => e.track === 'V1')
    expect(picture.map((e) => [Number(e.number), e.recordIn - cutStart, e.recordOut - cutStart, e.transition.frames])).toEqual(
      trueEvents.map((e) => [e.number, e.in, e.out, e.dissolve]),
    )
  })
  it('has lines as other programs end them', () => expect(demoEdl().split('\r\n').length).toBe(demoEdl().split('\n').length))
})

describe('reconnecting', () => {
  it('finds every event whose names and timecode tell it, at the very frame, and is certain of nothing wrong', () => {
    for (const e of trueEvents) {
      const l = linkOf('V1', e.number)
      if (!e.clip || e.clip === lostClip || l?.state === 'several') continue
      expect([e.number, l?.clipId, l?.range?.in]).toEqual([e.number, String(e.clip.code), e.first])
    }
    for (const s of trueSounds) expect([linkOf('A1', s.number)?.clipId, linkOf('A1', s.number)?.range?.in]).toEqual([s.sound.name, s.first])
  })
  it('leaves open what only a person or the picture can tell', () => {
    const numbers = (state: string) => links.filter((l) => l.state === state).map((l) => Number(l.eventId.split('/')[2]))
    expect(numbers('several')).toEqual([7, 11, 25, 28, 38])
    expect(numbers('not-found')).toEqual([31])
    expect(numbers('none-needed')).toEqual([1, 45])
    expect(links.filter((l) => l.away).map((l) => Number(l.eventId.split('/')[2]))).toEqual([20])
    for (const l of links.filter((x) => x.state === 'several')) {
      const e = trueEvents[Number(l.eventId.split('/')[2]) - 1]
      expect(l.candidates.map((c) => c.clipId)).toContain(String(e?.clip?.code))
    }
  })
})
