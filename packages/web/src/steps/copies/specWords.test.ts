/** What a spec does, in words. */
import { SpecRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { frameWords, keeps, soundWords } from './specWords.ts'

const spec = (change: object = {}): SpecRow =>
  SpecRow.parse({
    name: 'Proxy',
    code: 'proxy',
    version: 1,
    kind: 'proxy',
    coding: 'h264',
    wrapper: 'mov',
    frame: { by: 'original' },
    sound: { channels: 'all', coding: 'pcm24' },
    isDefault: false,
    shipped: true,
    copies: 0,
    older: 0,
    ...change,
  })
const sound = (channels: string, chosen: number[] = []) => ({ sound: { channels, chosen, coding: 'pcm24' } })

describe('what a spec does', () => {
  it.each([
    [{}, "the original's size"],
    [{ frame: { by: 'height', height: 720 } }, '720 high at most, shape kept'],
    [{ frame: { by: 'width', width: 1280 }, enlarge: true }, '1280 wide, shape kept'],
    [{ frame: { by: 'exact', width: 1920, height: 1080 }, framing: 'fill' }, '1920×1080, filled'],
  ])('to the frame: %j', (change, words) => expect(frameWords(spec(change))).toBe(words))
  it.each([
    [sound('all'), 'all channels'],
    [sound('chosen', [1, 3]), 'channels 1, 3'],
    [sound('none'), 'none'],
  ])('to sound: %j', (change, words) => expect(soundWords(spec(change))).toBe(words))
  it.each([
    [{}, 'Keeps names, timecode, reel, all sound, rate and every frame.'],
    [{ rate: 'project' }, 'Keeps names, timecode, reel and all sound.'],
    [{ rate: 'project', naming: { before: '', after: '_P' }, ...sound('mix') }, 'Keeps timecode and reel.'],
  ])('and keeps: %j', (change, words) => expect(keeps(spec(change))).toBe(words))
})
