/** What a job tells: while it runs, and in its report. */
import { say, step } from '../base/index.ts'

export interface Report {
  format: 1
  events: {
    id: string
    number: string
    track: string
    state: string
    away: boolean
    original: string | null
    sourceIn: number | null
    sourceOut: number | null
    recordIn: number
    recordOut: number
    candidates: { path: string; sourceIn: number; sourceOut: number; evidence: string[] }[]
    reason: string
  }[]
  problems: { file: string; line: number; message: string }[]
  clips: { path: string; frames: number; rate: string; timecode: string | null; reel: string | null; notices: string[] }[]
  /** `faults`: what its check found, as sentences. */
  copies: { path: string; original: string; spec: string; checked: boolean; faults: string[] }[]
  pulls: { path: string; original: string; sourceIn: number; sourceOut: number; checked: boolean }[]
  lists: string[]
  master: {
    path: string
    frames: number
    verified: boolean
    checks: { code: string; passed: boolean; text: string }[]
    placeholders: { eventId: string; reason: string }[]
    unconfirmed: string[]
    notCarried: string[]
  } | null
}

/** Where a job tells how it goes: to the person, as its result, and how far it is. */
export interface Out {
  say(text: string): void
  print(text: string): void
  step(text: string): void
}

export const terminal: Out = { say, step, print: (text) => void process.stdout.write(text) }
