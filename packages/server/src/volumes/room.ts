/** Room where something is to be written: what is free there, and what of it stays free. */
import { bytesText, targetReserve } from '@naranja/core/estimate'
import { diskRoom } from '@naranja/media'
import { Refusal } from '../platform/index.ts'

/** Bytes. `reserve` is the part of what is free that is left to others who write there. */
export interface Room {
  readonly free: number
  readonly reserve: number
}

export async function roomAt(path: string): Promise<Room> {
  const { free, size } = await diskRoom(path)
  return { free, reserve: targetReserve(size) }
}

/** Why so many bytes do not fit, as a sentence that goes on with what to do; null where they do. `also`: what else they need, said after them. */
export const noRoom = (bytes: number, r: Room, remedy: string, also = '', times = 1): string | null =>
  bytes * times <= r.free - r.reserve
    ? null
    : `${bytesText(bytes)} are needed${also}, ${bytesText(r.free)} are free there, and ${bytesText(r.reserve)} of it stay free. ${remedy}`

/** Refuses what does not fit. */
export function refuseTooLarge(...given: Parameters<typeof noRoom>): void {
  const why = noRoom(...given)
  if (why) throw new Refusal('full', why)
}
