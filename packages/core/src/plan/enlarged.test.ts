import { expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { enlargedSources, type PlanClip, type PlanEvent } from './index.ts'

const clip = (id: string, more: Partial<PlanClip> = {}): PlanClip => ({
  ...{ id, name: 'CLIP0001.MP4', place: `${id}/CLIP0001.MP4`, rate: rate(25), frames: 100, width: 1280, height: 720, pixelAspect: 1, holes: [] },
  ...more,
})
const event = (eventId: string, clipId: string | null, scale: number | null, more: Partial<PlanEvent> = {}): PlanEvent =>
  ({ eventId, clipId, scale, block: null, partial: false, ...more }) as PlanEvent

it('sources that are enlarged are named once, the most enlarged first, with their events', () => {
  const clips = new Map(
    [
      clip('Deck 1'),
      clip('Deck 2', { width: 640, height: 360 }),
      clip('full', { width: 1920, height: 1080 }),
      clip('copied', {
        finishing: {
          ...{ name: 'copy.mov', held: { in: 0, out: 100 }, width: 960, height: 540, sound: true, original: false, notes: [], fault: null },
        },
      }),
    ].map((c) => [c.id, c] as const),
  )
  const events = [
    event('1', 'Deck 1', 150),
    event('2', 'Deck 2', 300),
    event('3', 'Deck 1', 150),
    event('4', 'full', 100),
    event('5', 'copied', 200),
    event('6', null, null),
    // Nothing of what stops a master is shown.
    event('7', 'Deck 2', 300, { block: 'several originals fit' }),
  ]
  expect(enlargedSources({ events }, clips)).toEqual([
    { clip: 'Deck 2/CLIP0001.MP4', width: 640, height: 360, percent: 300, eventIds: ['2'] },
    { clip: 'copy.mov', width: 960, height: 540, percent: 200, eventIds: ['5'] },
    { clip: 'Deck 1/CLIP0001.MP4', width: 1280, height: 720, percent: 150, eventIds: ['1', '3'] },
  ])
})
