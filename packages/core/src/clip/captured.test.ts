/** How fast a clip was shot, by whatever a camera calls it. */
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { capturedByTags, capturedInText } from './index.ts'

describe('the rate at which a clip was shot', () => {
  it('stands among the tags of its file', () => {
    expect(
      capturedByTags([
        ['major_brand', 'qt'],
        ['com.maker.capture.fps', '240.000000'],
      ]),
    ).toEqual(rate(240))
    expect(capturedByTags([['Capture Frame Rate', '59.94 fps']])).toEqual(rate(60000, 1001))
    expect(capturedByTags([['encoder', 'fps 25']])).toBeNull()
  })
  it('stands in a side file', () => {
    expect(capturedInText('<Video><VideoFrame captureFps="119.88p" formatFps="23.98p"/></Video>')).toEqual(rate(120000, 1001))
    expect(capturedInText('<SensorFPS>100</SensorFPS>')).toEqual(rate(100))
    expect(capturedInText('Clip: A001\nRecording frame rate: 120000/1001\n')).toEqual(rate(120000, 1001))
    expect(capturedInText('Frame rate: 25\nThe sensor fps was not noted.')).toBeNull()
  })
})
