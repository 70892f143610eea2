/** What the contract lets through and what it stops, at the door. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  ClipQuery,
  CopyRequest,
  CutImport,
  LiveEvent,
  MasterRequest,
  NewProject,
  PlanQuery,
  ProblemAnswer,
  ProjectEdit,
  Ref,
  Stations,
  TakeIn,
} from './index.ts'

const id = '0f7f2c4e-4f4b-4b3b-9d0a-0f7f2c4e4f4b'
const passes = (schema: { safeParse(x: unknown): { success: boolean } }, x: unknown) => schema.safeParse(x).success

describe('what is asked in an address', () => {
  it('is read as numbers, with sensible values where nothing is said', () => {
    expect(ClipQuery.parse({})).toEqual({ limit: 200, sort: 'place', descending: false })
    expect(ClipQuery.parse({ limit: '50', sort: 'start', search: 'a', descending: 'true' })).toEqual({
      limit: 50,
      sort: 'start',
      search: 'a',
      descending: true,
    })
    expect(PlanQuery.parse({})).toEqual({ handles: 12 })
  })
  it.each([{ limit: '0' }, { limit: '1001' }, { limit: 'all' }, { sort: 'colour' }, { descending: 'up' }, { search: 'x'.repeat(201) }])('refuses %o', (q) =>
    expect(passes(ClipQuery, q)).toBe(false),
  )
  it.each([{ handles: '-1' }, { handles: '501' }, { handles: '1.5' }])('refuses %o', (q) => expect(passes(PlanQuery, q)).toBe(false))
})

describe('a place', () => {
  it('names any bytes, and only in the letters of an address', () => {
    const any = fc.uint8Array({ maxLength: 60 })
    fc.assert(
      fc.property(any, (bytes) => {
        expect(passes(Ref, Buffer.from(bytes).toString('base64url'))).toBe(true)
      }),
    )
    for (const wrong of ['../..', 'a b', 'ä', 'YQ==', '%2e']) expect([wrong, passes(Ref, wrong)]).toEqual([wrong, false])
  })
  it('is wanted at least once to take in', () => {
    expect(passes(TakeIn, { folders: [] })).toBe(false)
    expect(passes(TakeIn, { folders: [{ volumeId: id, ref: '' }] })).toBe(true)
    expect(passes(TakeIn, { folders: [{ volumeId: 'card', ref: '' }] })).toBe(false)
  })
})

describe('a project', () => {
  it('has a name that is more than blanks, which are cut off', () => {
    expect(NewProject.parse({ name: '  The Salt Ferry ' }).name).toBe('The Salt Ferry')
    for (const name of ['', '   ', 'x'.repeat(201)]) expect(passes(NewProject, { name })).toBe(false)
  })
  it('has a raster in pixels', () => {
    for (const width of [15, 16385, 19.5, '1920']) expect([width, passes(NewProject, { name: 'x', width })]).toEqual([width, false])
  })
  it('is changed only by somebody who knows its version', () => expect(passes(ProjectEdit, { name: 'x' })).toBe(false))
})

describe('work', () => {
  it('on copies means all that lack one unless clips are named', () => {
    expect(CopyRequest.parse({ specs: ['s'], volumeId: id, folder: '' }).clipIds).toBeUndefined()
    expect(passes(CopyRequest, { specs: ['s'], volumeId: id, folder: '', clipIds: ['1'] })).toBe(false)
  })
  it('on a master comes from originals and lets no placeholder stand, unless told', () => {
    expect(MasterRequest.parse({ volumeId: id, folder: '', file: 'm' })).toMatchObject({ from: 'originals', placeholders: false })
    for (const from of ['proxies', 'copies', '']) expect(passes(MasterRequest, { volumeId: id, folder: '', file: 'm', from })).toBe(false)
    expect(passes(MasterRequest, { volumeId: id, folder: '', file: '' })).toBe(false)
  })
  it('on a cut list takes bytes or a place on a volume, at least one', () => {
    const files = (...list: unknown[]) => passes(CutImport, { files: list })
    expect([files({ name: 'a.edl', base64: 'YQ' }), files({ volumeId: id, ref: 'YQ' }), files(), files({ name: 'a.edl' })]).toEqual([true, true, false, false])
    expect(CutImport.parse({ files: [{ volumeId: id, ref: '' }] }).sourceCount).toBe('auto')
  })
})

describe('what comes back', () => {
  it('when it says no has a code, a sentence, and details that may be left out', () => {
    expect(ProblemAnswer.parse({ error: { code: 'away', message: 'The volume is away.' } }).error.details).toEqual([])
  })
  it('of stations is always four', () => {
    expect(passes(Stations, ['reached', 'open', 'not-needed', 'away'])).toBe(true)
    expect([passes(Stations, ['reached']), passes(Stations, Array(5).fill('open')), passes(Stations, Array(4).fill('green'))]).toEqual([false, false, false])
  })
  it('when pushed is a change of known topics, or the progress of a task', () => {
    const progress = { type: 'progress', taskId: id, done: 1, total: 2, fps: 0, speed: 0, left: null, spent: 0, beside: 1 }
    expect([passes(LiveEvent, progress), passes(LiveEvent, { ...progress, taskId: 1 })]).toEqual([true, false])
    expect(passes(LiveEvent, { type: 'changed', topics: ['clips'], projectId: null })).toBe(true)
    expect(passes(LiveEvent, { type: 'changed', topics: ['weather'], projectId: null })).toBe(false)
  })
})
