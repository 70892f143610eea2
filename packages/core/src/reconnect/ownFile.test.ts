import { describe, expect, it } from 'vitest'
import { fileNames, ownFile } from './index.ts'

const file = (folder: string, name: string) => ({ folder, name })
const find = (event: { clipName?: string; sourceFile?: string; otherFiles?: string[] }, ...files: { folder: string; name: string }[]) =>
  ownFile({ clipName: null, sourceFile: null, ...event }, fileNames(files))

describe('the file an event was cut from', () => {
  const [a, b, c] = [file('Day 1', 'Scene 4 wide.mov'), file('Day 2', 'Scene 4 wide.mov'), file('', 'shot_17.mp4')]
  it('is the one it names, by its file first', () => {
    expect(find({ sourceFile: '/Edit/shot_17.mp4', clipName: 'Scene 9' }, a, c)).toBe(c)
    expect(find({ clipName: 'SCENE 4 WIDE.MOV' }, a, c)).toBe(a)
    expect(find({ otherFiles: ['x/shot_17.mp4'] }, a, c)).toBe(c)
  })
  it('may end otherwise', () => {
    expect(find({ clipName: 'shot_17' }, a, c)).toBe(c)
    expect(find({ sourceFile: 'shot_17.mxf' }, a, c)).toBe(c)
  })
  it('may be numbered pictures, by any of their names', () => {
    const moon = { folder: 'Plates', name: 'moon', aliases: ['moon_1001.png', 'Night sky'] }
    expect(['moon', 'MOON_1001.PNG', 'Night sky', 'moon.mov'].map((clipName) => find({ clipName }, a, moon))).toEqual([moon, moon, moon, moon])
    expect(find({ clipName: 'moon_1002.png' }, a, moon)).toBeNull()
  })
  it('of several is told by the folders above it', () => {
    expect(find({ sourceFile: 'file:///Volumes/Edit/Day 2/Scene 4 wide.mov' }, a, b)).toBe(b)
    expect(find({ sourceFile: 'C:\\Edit\\Day 1\\Scene 4 wide.mov' }, a, b)).toBe(a)
  })
  it('is none where nothing is called so, or nothing tells which', () => {
    expect(find({ clipName: 'shot_18' }, a, b, c)).toBeNull()
    expect(find({ clipName: 'Scene 4 wide' }, a, b)).toBeNull()
    expect(find({}, a, b, c)).toBeNull()
  })
})
