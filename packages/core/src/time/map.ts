/** Which source frame stands at which record frame. */
import { mulDivCeil, mulDivFloor, type Rate } from './rate.ts'

/** Source frames per record frame as an exact fraction; `num` may be zero (freeze) or negative (reverse). */
export interface Step {
  readonly num: number
  readonly den: number
}

/** The step of a source that plays in real time, times a speed (1/1 is as shot). */
export function stepOf(source: Rate, record: Rate, speed: Step = { num: 1, den: 1 }): Step {
  return { num: source.num * record.den * speed.num, den: source.den * record.num * speed.den }
}

/** The source frame for record frame `k` of an event that begins at `first`: the one at or before it in time. */
export function sourceFrame(first: number, k: number, step: Step): number {
  return step.num >= 0 ? first + mulDivFloor(k, step.num, step.den) : first - mulDivFloor(k, -step.num, step.den)
}

/** How many source frames `length` record frames reach over: ceil(length × step), at least one where anything is shown. */
export function sourceLength(length: number, step: Step): number {
  return length === 0 ? 0 : Math.max(1, mulDivCeil(length, Math.abs(step.num), step.den))
}
