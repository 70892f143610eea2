import { XMLParser } from 'fast-xml-parser'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { readXml } from './read.ts'

const parser = new XMLParser()
it('reads what is well-formed', () => {
  expect(readXml(parser, '<a><b>1</b></a>')).toEqual({ root: { a: { b: 1 } } })
})
it('says what is wrong, and in which line', () => {
  expect(readXml(parser, '<a>\n<b>\n</a>')).toMatchObject({ line: 3 })
  expect(readXml(parser, '<a><constructor/></a>')).toMatchObject({ fault: expect.stringContaining('constructor') })
})
it('never throws', () => {
  fc.assert(fc.property(fc.string(), (s) => void readXml(parser, `<a>${s}</a>`)))
})
