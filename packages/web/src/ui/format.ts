/** Numbers and names as people read them. */
import { bytesText } from '@naranja/core/estimate'
import { formatFrames, type Rate, rateText } from '@naranja/core/time'

export const bytes = bytesText
export const rateName = (r: Rate): string => `${rateText(r)} fps`
/** A length as timecode at its own rate. */
export const duration = (frames: number, r: Rate): string => formatFrames(frames, r)
/** A frame among those of a clip, counted from 0. */
export const frameText = (frame: number, frames: number): string => `frame ${frame} of ${frames}`
/** `4 min 12 s`. */
export function lasting(s: number): string {
  const t = Math.round(s)
  if (t < 60) return `${t} s`
  if (t < 3600) return `${Math.floor(t / 60)} min ${t % 60} s`
  return `${Math.floor(t / 3600)} h ${Math.floor((t % 3600) / 60)} min`
}
export const dataRate = (bits: number): string => (bits >= 1e6 ? `${(bits / 1e6).toFixed(bits >= 1e7 ? 0 : 1)} Mbit/s` : `${Math.round(bits / 1e3)} kbit/s`)
export const perCent = (x: number): string => `${(Math.floor(x * 1000) / 10).toFixed(x >= 0.9995 ? 0 : 1)} %`
export const plural = (n: number, one: string, many = `${one}s`): string => `${n.toLocaleString('en')} ${n === 1 ? one : many}`
export const number = (n: number): string => n.toLocaleString('en')
/** `8 Nov 2026, 10:02`, where the reader is. */
export const moment = (iso: string): string => new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
