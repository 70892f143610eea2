import { codings, faultsOf } from '@naranja/core/specs'
import { describe, expect, it } from 'vitest'
import { codingsOf, draftOf, families, following, freeName, fresh, openSpec, specOfDraft } from './draft.ts'

describe('a draft', () => {
  it('can be made whatever coding and wrapper is taken, from any other', () => {
    for (const a of codings)
      for (const b of codings) {
        const d = following({ ...following({ ...fresh('x'), coding: a.code }), coding: b.code })
        expect([a.code, b.code, faultsOf(specOfDraft(d))]).toEqual([a.code, b.code, []])
        for (const wrapper of b.wrappers) expect(faultsOf(specOfDraft(following({ ...d, wrapper })))).toEqual([])
      }
  })
  it('keeps what still goes', () => {
    const d = following({ ...fresh('x'), coding: 'h264', quality: 30, wrapper: 'mp4' })
    expect([d.wrapper, d.quality, d.sound.coding]).toEqual(['mp4', 30, 'aac'])
    expect(following({ ...d, coding: 'hevc' })).toMatchObject({ wrapper: 'mp4', quality: 30 })
    expect(following({ ...d, coding: 'prores-hq' })).toMatchObject({ wrapper: 'mov', quality: null })
  })
  it('is a spec without code and version', () => {
    const { code: _c, version: _v, ...rest } = { ...fresh('x'), code: 'c', version: 3 }
    expect(draftOf({ ...fresh('x'), code: 'c', version: 3 })).toEqual(rest)
  })
  it('gets a name of its own', () => {
    expect(freeName('A', ['b'])).toBe('A')
    expect(freeName('A', ['a', 'A 2'])).toBe('A 3')
  })
  it('finds every coding in its family', () => expect(families.flatMap((f) => codingsOf(f))).toHaveLength(codings.length))
})

describe('the spec that is open', () => {
  const [a, b, made] = [{ code: 'a' }, { code: 'b' }, { code: 'made' }]
  const page = { coming: null, inAddress: undefined, listIsComing: false }
  it('is that of the address, else the first', () => {
    expect(openSpec([a, b], { ...page, inAddress: 'b' })).toBe(b)
    expect(openSpec([a, b], page)).toBe(a)
    expect(openSpec([a, b], { ...page, inAddress: 'gone' })).toBe(a)
    expect(openSpec([a, b], { ...page, inAddress: 'gone', listIsComing: true })).toBeUndefined()
  })
  it('is the added one alone, whether the list or the address knows it first', () => {
    expect(openSpec([a, b], { ...page, coming: '', inAddress: 'a' })).toBeUndefined()
    expect(openSpec([a, b, made], { ...page, coming: '', inAddress: 'a' })).toBeUndefined()
    expect(openSpec([a, b], { ...page, coming: 'made', inAddress: 'made' })).toBeUndefined()
    expect(openSpec([a, b, made], { ...page, coming: 'made', inAddress: 'a' })).toBe(made)
    expect(openSpec([a, b, made], { ...page, coming: 'made' })).toBe(made)
  })
})
