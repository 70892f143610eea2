/** Room on the disk that holds database, queue, caches and logs; without it nothing works, so some of it stays free. */
import { bytesText, ownReserve } from '@naranja/core/estimate'
import { diskRoom } from '@naranja/media'
import { type Context, isForRoom, Refusal } from '../platform/index.ts'

interface OwnRoom {
  readonly free: number
  readonly reserve: number
  /** Less is free than stays free: nothing new is begun. */
  readonly low: boolean
}

const looked = new Map<string, { at: number; room: OwnRoom }>()

/** As it is now, or (unless `now`) was a second ago. */
export async function ownRoom(folder: string, now = false): Promise<OwnRoom> {
  const before = looked.get(folder)
  if (before && !now && Date.now() - before.at < 1000) return before.room
  const { free, size } = await diskRoom(folder)
  const reserve = ownReserve(size)
  const room = { free, reserve, low: free < reserve }
  looked.set(folder, { at: Date.now(), room })
  return room
}

/** What people are told while it lasts. */
export const fullText = (folder: string, r: OwnRoom): string =>
  `The disk of Naranja's own data is full: ${bytesText(r.free)} are free at ${folder}, and below ${bytesText(r.reserve)} nothing new is begun. Make room there; everything goes on by itself then.`

/** Refuses new work while there is no room for what it writes down. */
export async function refuseWithoutRoom(ctx: Context): Promise<void> {
  const room = await ownRoom(ctx.config.folder)
  if (room.low) throw new Refusal('full', fullText(ctx.config.folder, room))
}

/** What ended a task, where it ended because there was no room for its own files: then said so, and not as if the target were full. */
export async function endedForRoom(ctx: Context, e: unknown): Promise<string | null> {
  if (!isForRoom(e)) return null
  const room = await ownRoom(ctx.config.folder)
  return room.low ? fullText(ctx.config.folder, room) : null
}
