/** The originals of the demo: which camera wrote what, where, and when. */
import { type Rate, rate } from '@naranja/core/time'
import type { SceneKind } from './scenes.ts'

export type Camera = 'main' | 'second' | 'deck' | 'fast' | 'telescope'

export interface DemoClip {
  /** Its number in the edge code. */
  readonly code: number
  readonly camera: Camera
  /** Volume and folders below it. */
  readonly volume: string
  readonly folder: string
  /** File name; of a sequence, its base. */
  readonly name: string
  readonly scene: SceneKind
  readonly frames: number
  readonly timecode: string | null
  readonly reel: string | null
}

export interface CameraFacts {
  readonly width: number
  readonly height: number
  readonly rate: Rate
}

const pal = rate(25)
export const cameras: Record<Camera, CameraFacts> = {
  main: { width: 4096, height: 2160, rate: pal },
  second: { width: 1920, height: 1080, rate: pal },
  deck: { width: 1280, height: 720, rate: pal },
  fast: { width: 1920, height: 1080, rate: rate(50) },
  telescope: { width: 1440, height: 1080, rate: pal },
}

export interface DemoSound {
  readonly name: string
  readonly volume: string
  readonly folder: string
  readonly timecode: string
  readonly frames: number
  /** Tone of the left channel in Hz; the right one is a fifth above. */
  readonly tone: number
}

let code = 0
const clip = (
  camera: Camera,
  volume: string,
  folder: string,
  name: string,
  scene: SceneKind,
  frames: number,
  timecode: string | null,
  reel: string | null = null,
): DemoClip => ({ code: ++code, camera, volume, folder, name, scene, frames, timecode, reel })
const main = (roll: string, day: number, n: number, scene: SceneKind, frames: number, timecode: string, volume = 'Quay drive') =>
  clip('main', volume, `Day ${day}/${roll}`, `${roll}C${String(n).padStart(3, '0')}_26110${7 + day}_SF.mp4`, scene, frames, timecode)
const second = (n: number, scene: SceneKind, frames: number, timecode: string) =>
  clip('second', 'Card B001', 'Day 1/CLIPS', `B001C${String(n).padStart(3, '0')}_261108.mxf`, scene, frames, timecode, 'B001_SALTFERRY')
const deck = (card: number, n: number, scene: SceneKind, frames: number) =>
  clip('deck', `Deck card ${card}`, `Day ${card}/MEDIA`, `CLIP${String(n).padStart(4, '0')}.MP4`, scene, frames, null)

/** The card that is out when the demo opens. */
export const awayVolume = 'Card A003'

export const demoClips: readonly DemoClip[] = [
  main('A001', 1, 1, 'harbour', 84, '10:02:11:04'),
  main('A001', 1, 2, 'ferry', 92, '10:09:40:19'),
  main('A001', 1, 3, 'gulls', 76, '10:14:15:00'),
  main('A001', 1, 4, 'mate', 84, '10:31:02:13'),
  main('A001', 1, 5, 'deck', 72, '11:05:20:07'),
  main('A002', 1, 1, 'rope', 80, '13:12:48:22'),
  main('A002', 1, 2, 'wheel', 88, '13:20:05:10'),
  main('A002', 1, 3, 'ferry', 84, '13:41:33:01'),
  main('A002', 1, 4, 'gulls', 72, '14:02:10:16'),
  main('A003', 2, 1, 'night', 80, '20:45:00:05', awayVolume),
  main('A003', 2, 2, 'harbour', 76, '20:58:31:20', awayVolume),
  main('A004', 2, 1, 'mate', 84, '21:14:09:12'),
  main('A004', 2, 2, 'night', 88, '21:30:44:08'),
  second(1, 'ferry', 140, '10:03:00:00'),
  second(2, 'deck', 125, '10:15:12:12'),
  second(3, 'wheel', 130, '10:44:51:03'),
  second(4, 'gulls', 120, '13:22:30:24'),
  second(5, 'harbour', 135, '13:58:02:18'),
  second(6, 'rope', 110, '14:11:27:06'),
  deck(1, 1, 'deck', 150),
  deck(1, 2, 'rope', 110),
  deck(1, 3, 'gulls', 120),
  deck(1, 4, 'mate', 115),
  deck(2, 1, 'harbour', 145),
  deck(2, 2, 'night', 120),
  deck(2, 3, 'wheel', 125),
  deck(2, 5, 'ferry', 100),
  clip('fast', 'Quay drive', 'Day 2/H001', 'H001C001_261109_SF.mp4', 'gulls', 150, '15:10:00:00'),
  clip('fast', 'Quay drive', 'Day 2/H001', 'H001C002_261109_SF.mp4', 'rope', 140, '15:22:18:30'),
  clip('telescope', 'Quay drive', 'Day 2/Telescope', 'moon_', 'moon', 75, null),
]

/** Shot but lost: the cut uses it, no original exists. */
export const lostClip: DemoClip = { ...main('A005', 2, 1, 'wheel', 80, '22:05:17:00'), code: 400 }

/** Numbers of the sequence that are not there. */
export const sequenceFirst = 1001
export const sequenceMissing: readonly number[] = [1061, 1062]

const sound = (n: number, timecode: string, frames: number, tone: number): DemoSound => ({
  name: `SF_T${String(n).padStart(2, '0')}.WAV`,
  volume: 'Quay drive',
  folder: 'Sound/Day 1',
  timecode,
  frames,
  tone,
})
export const demoSounds: readonly DemoSound[] = [
  sound(1, '10:02:09:00', 140, 220),
  sound(2, '10:09:38:00', 160, 262),
  sound(3, '10:31:00:00', 150, 294),
  sound(4, '13:20:03:00', 170, 330),
  sound(5, '13:41:30:00', 180, 392),
]
