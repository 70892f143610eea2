/** Files that somebody made to be opened: what they point at stays closed. Traced, so that nothing is believed. */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { pointsElsewhere } from './forms.ts'
import { probe } from '../probe/probe.ts'
import { box } from '../testing.ts'
import { burnInGraph } from '../copies/text.ts'

const dir = mkdtempSync(join(tmpdir(), 'naranja hostile '))
const corpus = join(dir, 'corpus')
/** What must never be opened. */
const secret = join(dir, 'secret.ts')
const port = 4711
afterAll(() => rmSync(dir, { recursive: true, force: true }))

/** A movie like `bytes` whose data references are these instead of "in this file" (ISO/IEC 14496-12, 8.7.2). */
function referring(bytes: Buffer, reference: Buffer): Buffer {
  const grow = (b: Buffer): Buffer => {
    const out: Buffer[] = []
    for (let at = 0; at + 8 <= b.length; ) {
      const size = b.readUInt32BE(at) || b.length - at
      const kind = b.toString('latin1', at + 4, at + 8)
      const body = b.subarray(at + 8, at + size)
      if (kind === 'dref') out.push(box('dref', Buffer.from([0, 0, 0, 0, 0, 0, 0, 1]), reference))
      else out.push(['moov', 'trak', 'mdia', 'minf', 'dinf'].includes(kind) ? box(kind, grow(body)) : b.subarray(at, at + size))
      at += size
    }
    return Buffer.concat(out)
  }
  return grow(bytes)
}

/** Whether a trace tells that `secret` was opened, or that anything was connected to. */
function opened(trace: string): string[] {
  return readFileSync(trace, 'utf8')
    .split('\n')
    .filter((l) => (/\b(open|openat|openat2)\(/.test(l) && l.includes('secret')) || (/\bconnect\(/.test(l) && /AF_INET/.test(l)))
}
const traced = (trace: string, command: string[], env = process.env) =>
  spawnSync('strace', ['-f', '-qq', '-s', '400', '-e', 'trace=open,openat,openat2,connect', '-o', trace, ...command], { encoding: 'utf8', env, maxBuffer: 1e8 })

beforeAll(() => {
  mkdirSync(corpus)
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25', '-frames:v', '10', '-c:v', 'mpeg2video', secret])
  const movie = join(dir, 'plain.mov')
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25', '-frames:v', '10', '-c:v', 'mjpeg', movie])
  const put = (name: string, data: string | Uint8Array) => writeFileSync(join(corpus, name), data)
  const beside = relative(corpus, secret)
  const list = (target: string) => `#EXTM3U\n#EXT-X-VERSION:3\n#EXT-X-TARGETDURATION:1\n#EXTINF:0.4,\n${target}\n#EXT-X-ENDLIST\n`
  for (const ending of ['mp4', 'mov', 'ts', 'mkv', 'mxf', 'avi', 'wav', 'm2ts']) put(`playlist absolute.${ending}`, list(`file://${secret}`))
  put('playlist relative.mp4', list(beside))
  put('playlist of the network.mp4', list(`http://127.0.0.1:${port}/x.ts`))
  put('playlist utf16.mp4', Buffer.from(`\ufeff${list(secret)}`, 'utf16le'))
  put('playlist bom.mp4', `\ufeff${list(secret)}`)
  put('playlist that goes on.mp4', Buffer.concat([Buffer.from(list(secret)), Buffer.alloc(4000)]))
  const mpd = `<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT1S"><Period><AdaptationSet mimeType="video/mp4"><Representation id="1" bandwidth="1"><BaseURL>${secret}</BaseURL><SegmentList duration="1"><SegmentURL media="${secret}"/></SegmentList></Representation></AdaptationSet></Period></MPD>`
  put('presentation.mp4', mpd)
  put('concat.mov', `ffconcat version 1.0\nfile '${secret}'\n`)
  put('concat plain.mov', `file '${secret}'\n`)
  put('session.mov', `v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=video ${port} RTP/AVP 33\n`)
  put('package.mxf', `<?xml version="1.0"?><CompositionPlaylist xmlns="http://www.smpte-ra.org/schemas/2067-3/2016"><Id>urn:uuid:1</Id></CompositionPlaylist>`)
  put('script.avi', `AviSource("${secret}")`)
  put('script.mkv', `import vapoursynth as vs\nclip = vs.core.ffms2.Source("${secret}")\nclip.set_output()\n`)
  put('subtitles.mov', `# VobSub index file, v7\nid: en, index: 0\ntimestamp: 00:00:00:000, filepos: 000000000\n`)
  put(
    'drawing.png',
    `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><image xlink:href="${secret}" width="9" height="9"/></svg>`,
  )
  put('seq0001.png', list(secret))
  execFileSync('ffmpeg', ['-v', 'error', '-i', movie, '-frames:v', '1', '-update', '1', join(corpus, 'shot.png')])
  const plain = readFileSync(movie)
  const url = (target: string) => box('url ', Buffer.from([0, 0, 0, 0]), Buffer.from(`${target}\0`))
  put('reference absolute.mov', referring(plain, url(`file://${secret}`)))
  put('reference relative.mov', referring(plain, url(beside)))
  put('reference of the network.mov', referring(plain, url(`http://127.0.0.1:${port}/x.mov`)))
  put('reference by alias.mov', referring(plain, box('alis', Buffer.from([0, 0, 0, 0]), Buffer.alloc(150), Buffer.from(`\0\x02\0\x0asecret.ts`))))
  for (const name of ['concat:a|b.mov', '-i', 'pipe:0', 'subfile,,start,0,end,0,,:x.mov', 'data:text']) put(name, list(secret))
  symlinkSync(movie, join(corpus, 'fine.mov'))
}, 60_000)

describe('media that point elsewhere', () => {
  it('are told by the tracer where FFmpeg is let loose on them', () => {
    // Else a tracer that sees nothing would let everything pass.
    const trace = join(dir, 'loose')
    const list = join(corpus, 'playlist absolute.mp4')
    traced(trace, ['ffprobe', '-v', 'error', '-allowed_extensions', 'ALL', '-protocol_whitelist', 'file,http,tcp', list])
    expect(opened(trace).length).toBeGreaterThan(0)
    traced(trace, ['ffprobe', '-v', 'error', '-allowed_extensions', 'ALL', '-protocol_whitelist', 'file,http,tcp', join(corpus, 'playlist of the network.mp4')])
    expect(opened(trace).some((l) => l.includes('connect'))).toBe(true)
  })

  it('open nothing but themselves, and are told in a sentence', () => {
    const trace = join(dir, 'trace')
    const loader = fileURLToPath(new URL('../../../../node_modules/tsx/dist/loader.mjs', import.meta.url))
    const script = fileURLToPath(new URL('../hostile.testing.ts', import.meta.url))
    const end = traced(trace, [process.execPath, '--no-warnings', '--import', loader, script, corpus])
    expect([end.status, end.stderr]).toEqual([0, ''])
    expect(opened(trace)).toEqual([])
    const said = JSON.parse(end.stdout) as Record<string, string | null>
    const right = Object.entries(said).filter(([, fault]) => fault === null)
    expect(right.map(([name]) => name).sort()).toEqual(['fine.mov', 'shot.png'])
    for (const [name, fault] of Object.entries(said)) {
      if (fault === null) continue
      expect([name, fault]).toEqual([name, expect.stringMatching(/^.+ (is a text, not a movie|does not hold its own pictures or sound).*\.$/s)])
    }
    expect(said['reference absolute.mov']).toContain(secret)
  }, 240_000)

  it('leave recordings alone that begin like a text, and texts in every coding', async () => {
    const at = (name: string, data: Uint8Array | string) => {
      writeFileSync(join(dir, name), data)
      return Buffer.from(join(dir, name))
    }
    expect(await pointsElsewhere(at('latin.mov', Buffer.from('Rushes für Mara, geändert\n', 'latin1')))).toMatch(/is a text/)
    expect(await pointsElsewhere(at('utf8.mov', 'Straße – „Fähre“ 渡し船\n'))).toMatch(/is a text/)
    expect(await pointsElsewhere(at('big.mov', Buffer.from('\ufeffa list\n', 'utf16le').swap16()))).toMatch(/is a text/)
    expect(await pointsElsewhere(at('noise.mov', Buffer.from(Array.from({ length: 600 }, (_, i) => (i * 37) % 256))))).toBeNull()
    const y4m = join(dir, 'plain.y4m')
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25', '-frames:v', '2', '-pix_fmt', 'yuv420p', '-f', 'yuv4mpegpipe', y4m])
    expect((await probe(Buffer.from(y4m), { projectRate: { num: 25, den: 1 } })).fault ?? null).toBeNull()
  })

  it('are not drawn in as images either', () => {
    const burn = (data: string) =>
      burnInGraph(
        [{ what: 'image', text: '', image: Buffer.from(data, 'latin1').toString('base64'), place: 'top-left', size: 10, opacity: 100, ground: false } as never],
        { fonts: { text: 'x', mono: 'x' }, name: '', reel: null, start: null, drop: false, frame: 0 } as never,
        { num: 25, den: 1 },
        { width: 640, height: 360 },
        'a',
        'b',
        'l',
      )
    expect(() => burn(`#EXTM3U\n#EXTINF:1,\n${secret}\n`)).toThrow(/neither PNG nor JPEG/)
    expect(() => burn('<svg/>')).toThrow(/neither PNG nor JPEG/)
    expect(burn('\x89PNG\r\n\x1a\n')).toMatch(/:f=png_pipe,/)
  })
})
