/** Undo: how every kind of change is taken back, room by room. A kind that no room knows does not compile. */
import { arrivalsTakeBacks } from '../arrivals/index.ts'
import { cutsTakeBacks } from '../cuts/index.ts'
import { handoverTakeBacks } from '../handover/index.ts'
import { type TakeBacks, undoBy } from '../history/index.ts'
import { intakeTakeBacks } from '../intake/index.ts'
import { originalsTakeBacks, refreshNotices } from '../originals/index.ts'
import { pairingTakeBacks } from '../pairing/index.ts'
import { pictureTakeBacks } from '../picture/index.ts'
import { reconnectTakeBacks } from '../reconnect/index.ts'
import { sourcesTakeBacks } from '../sources/index.ts'
import { projectTakeBacks } from './service.ts'

const all: TakeBacks = {
  ...pictureTakeBacks,
  ...originalsTakeBacks,
  ...sourcesTakeBacks,
  ...cutsTakeBacks,
  ...pairingTakeBacks,
  ...handoverTakeBacks,
  ...intakeTakeBacks,
  ...arrivalsTakeBacks,
  ...reconnectTakeBacks,
  ...projectTakeBacks,
}

export const undo = undoBy(all, refreshNotices)
