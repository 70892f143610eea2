/** Recorders’ notes by the published form. */
import { rate } from '@naranja/core/time'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readIxml } from './ixml.ts'

const ixml = (inner: string): string => `<?xml version="1.0" encoding="UTF-8"?>\n<BWFXML><IXML_VERSION>1.61</IXML_VERSION>${inner}</BWFXML>\0\0\0`

describe('iXML', () => {
  it('tells scene, take, rate, time and the names of the tracks', () => {
    const notes = readIxml(
      ixml(`<PROJECT>The Salt Ferry</PROJECT><SCENE>4A</SCENE><TAKE>3</TAKE><TAPE>SR01</TAPE><CIRCLED>TRUE</CIRCLED><NOTE>wind &amp; gulls</NOTE>
        <SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG>
        <TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>1</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>2</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>
        <TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT>
        <TRACK><CHANNEL_INDEX>3</CHANNEL_INDEX><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>Boom</NAME></TRACK>
        <TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>Ada</NAME></TRACK></TRACK_LIST>
        <FILE_SET><TOTAL_FILES>2</TOTAL_FILES><FAMILY_UID>F1</FAMILY_UID><FILE_SET_INDEX>B</FILE_SET_INDEX></FILE_SET>`),
    )
    expect(notes).toEqual({
      project: 'The Salt Ferry',
      scene: '4A',
      take: '3',
      tape: 'SR01',
      note: 'wind & gulls',
      circled: true,
      timecodeRate: rate(30000, 1001),
      drop: true,
      timeReference: 2 ** 32 + 2,
      tracks: ['Ada', 'Boom'],
      family: { id: 'F1', files: 2, index: 'B' },
    })
  })
  it('that says little leaves the rest open', () => {
    expect(readIxml(ixml('<SCENE></SCENE><TRACK_LIST><TRACK><INTERLEAVE_INDEX>3</INTERLEAVE_INDEX><NAME>C</NAME></TRACK></TRACK_LIST>'))).toEqual({
      project: null,
      scene: null,
      take: null,
      tape: null,
      note: null,
      circled: false,
      timecodeRate: null,
      drop: false,
      timeReference: null,
      tracks: [null, null, 'C'],
      family: null,
    })
  })
  it('that is none is null, and nothing makes it fail', () => {
    expect(readIxml('no xml')).toBeNull()
    expect(readIxml('<OTHER/>')).toBeNull()
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (t) => void readIxml(`<BWFXML>${t}</BWFXML>`) === undefined))
  })
})
