import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addressText, parseAddress } from './address.ts'
import { mappedVolumes } from '../join.ts'

describe('the address of an instance', () => {
  it('says where its door is, what opens it, and whose it is', () => {
    const hex = fc.stringMatching(/^[0-9a-f]{64}$/)
    const host = fc.constantFrom('cutting-room.local', '192.0.2.7', '[2001:db8::7]')
    fc.assert(
      fc.property(host, fc.integer({ min: 1, max: 65535 }), fc.stringMatching(/^[A-Za-z0-9_-]{16,40}$/), hex, (h, port, token, fingerprint) => {
        expect(parseAddress(` ${addressText(h, port, token, fingerprint)}\n`)).toEqual({ host: h.replace(/[[\]]/g, ''), port, token, fingerprint })
      }),
    )
  })
  it('is nothing else', () => {
    for (const text of ['', 'host:1', 'host:99/short.00', `host:99/${'a'.repeat(20)}.${'g'.repeat(64)}`, `ho st:99/${'a'.repeat(20)}.${'0'.repeat(64)}`])
      expect(parseAddress(text)).toBeNull()
  })
})

describe('volumes that are mapped', () => {
  const known = [{ id: '1', label: 'Quay drive' }]
  it('are known by their names; what is none is told with those that are', () => {
    expect(mappedVolumes(['Quay drive=/tmp'], known)).toEqual({ '1': '/tmp' })
    expect(() => mappedVolumes(['Key drive=/tmp'], known)).toThrow('There is no volume called "Key drive" there. Known are Quay drive.')
    expect(() => mappedVolumes(['Quay drive'], known)).toThrow(/There is no volume called "Quay drive"/)
    expect(() => mappedVolumes(['Quay drive=/tmp/nowhere at all'], known)).toThrow(/\/tmp\/nowhere at all is not a folder here/)
  })
})
