/** How many streams play at once, from what was measured of machine and drive. */
import { type Rate, seconds } from '../time/index.ts'

/** So many are told at most; more is "and more". */
export const mostAngles = 32

/** Of what was measured, a part is kept for everything else the machine and the drive do meanwhile. */
const kept = 0.85

/** Streams that a machine decodes in time: frames per second of all its cores together, against the rate of one stream. */
export const anglesByMachine = (framesPerSecond: number, rate: Rate): number => Math.min(mostAngles, Math.floor(framesPerSecond * kept * seconds(1, rate)))

/** Streams that a drive gives in time; both in bytes per second. */
export const anglesByDrive = (readRate: number, streamRate: number): number =>
  streamRate <= 0 ? mostAngles : Math.min(mostAngles, Math.floor((readRate * kept) / streamRate))

/** Heights of pictures that are tried, from the largest down to the smallest, none larger than what there is. */
export const triedHeights = (most: number): number[] => [2160, 1440, 1080, 720, 540, 360].filter((h) => h <= most)
