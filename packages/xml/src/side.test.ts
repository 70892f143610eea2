import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readSideFile } from './side.ts'

describe('a side file', () => {
  const xmp = (inner: string, attributes = '') =>
    `<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description xmlns:xmpDM="urn:media" xmlns:dc="urn:core" ${attributes}>${inner}</rdf:Description></rdf:RDF>`

  it('in XMP tells by elements and by attributes', () => {
    expect(readSideFile('A001C001.xmp', xmp('<xmpDM:takeNumber>3</xmpDM:takeNumber>', 'xmpDM:scene="12A" xmpDM:tapeName="A001"'))).toEqual({
      scene: '12A',
      reel: 'A001',
      take: '3',
    })
    expect(readSideFile('a.XMP', xmp('<dc:title><rdf:Alt><rdf:li xml:lang="x-default">The rope slips</rdf:li></rdf:Alt></dc:title>'))).toEqual({
      plain: 'The rope slips',
    })
  })
  it('in iXML tells as a recorder does', () => {
    expect(readSideFile('S1.xml', '<BWFXML><SCENE>7</SCENE><TAKE>2</TAKE><TAPE>SR1</TAPE><NOTE>wind</NOTE></BWFXML>')).toEqual({
      scene: '7',
      take: '2',
      reel: 'SR1',
      notes: 'wind',
    })
  })
  it('of lines tells by their names', () => {
    expect(readSideFile('a.txt', 'Scene: 4\nTake=2\r\nOperator: nobody\nNote; gulls')).toEqual({ scene: '4', take: '2', notes: 'gulls' })
    expect(readSideFile('a.csv', '"Plain name","Rope"')).toEqual({ plain: 'Rope' })
  })
  it('that is something else tells nothing', () => {
    expect(readSideFile('a.xml', '<film><scene>4</scene></film>')).toEqual({})
    expect(readSideFile('a.xml', '<BWFXML><SCENE>')).toEqual({})
    expect(readSideFile('a.bin', 'Scene: 4')).toEqual({})
    expect(readSideFile('a.xmp', xmp('<xmpDM:constructor>x</xmpDM:constructor>'))).toEqual({})
  })
  it('never throws', () => {
    fc.assert(fc.property(fc.constantFrom('a.xml', 'a.xmp', 'a.txt', 'a.csv'), fc.string(), (name, text) => void readSideFile(name, text)))
  })
})
