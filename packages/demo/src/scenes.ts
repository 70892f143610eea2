/** The pictures of the demo: a still background and things that move in front of it, drawn as SVG. */
import sharp from 'sharp'

export const sceneKinds = ['ferry', 'deck', 'rope', 'gulls', 'wheel', 'harbour', 'mate', 'night', 'moon'] as const
export type SceneKind = (typeof sceneKinds)[number]

/** A small, repeatable source of numbers from 0 to 1. */
export function random(seed: number): () => number {
  let s = (seed * 2654435761) >>> 0 || 1
  return () => {
    s = Math.imul(s ^ (s >>> 15), 2246822519) + 0x9e3779b9
    s ^= s >>> 13
    return (s >>> 0) / 4294967296
  }
}

/** Sky above, sky below, ground. */
const palettes: Record<SceneKind, readonly [string, string, string][]> = {
  ferry: [
    ['#8fa6ad', '#d8cdb6', '#45606a'],
    ['#b7c7c9', '#e6dfcf', '#4f7480'],
    ['#7d8fa6', '#c9b7a6', '#3a5260'],
  ],
  deck: [
    ['#7f8f93', '#b9b4a6', '#5d5348'],
    ['#93a7b5', '#c9ccc6', '#6b5a49'],
    ['#6f7d86', '#a8a294', '#544a40'],
  ],
  rope: [
    ['#6b5d4c', '#8c7a61', '#4b4034'],
    ['#4f5d58', '#75806f', '#39423c'],
    ['#7a5f50', '#9c8468', '#55443a'],
  ],
  gulls: [
    ['#a9bcc6', '#dfe3e0', '#6b8591'],
    ['#8fb0c9', '#d6e2ea', '#5c7f96'],
    ['#c4b8a9', '#ece3d4', '#8a8f8c'],
  ],
  wheel: [
    ['#2d3336', '#47504f', '#1f2426'],
    ['#3a322c', '#5a4d42', '#26201c'],
    ['#26313a', '#3d4d58', '#1a2228'],
  ],
  harbour: [
    ['#c99a72', '#e9cfa0', '#4a5563'],
    ['#b98a86', '#e2bfa6', '#46505f'],
    ['#9fb0b8', '#d9dcd3', '#4d6370'],
  ],
  mate: [
    ['#4a4440', '#7a6d62', '#2e2a28'],
    ['#39464a', '#5f7074', '#22292b'],
    ['#544a3a', '#86775c', '#332d24'],
  ],
  night: [
    ['#141b2c', '#2c3a55', '#0d1422'],
    ['#0f1626', '#25304a', '#0a0f1a'],
    ['#1a1830', '#3a3358', '#100e1f'],
  ],
  moon: [
    ['#0a0c12', '#12151d', '#0a0c12'],
    ['#0a0c12', '#12151d', '#0a0c12'],
    ['#0a0c12', '#12151d', '#0a0c12'],
  ],
}

const svg = (w: number, h: number, body: string): Buffer =>
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="0 0 ${w} ${h}">${body}</svg>`)

export interface Sprite {
  readonly png: Buffer
  /** Overlay position as FFmpeg expressions of `t`, in pixels. */
  readonly x: string
  readonly y: string
}

export interface Scene {
  readonly background: Buffer
  readonly sprites: readonly Sprite[]
}

const noHorizon = new Set<SceneKind>(['rope', 'wheel', 'mate', 'moon'])

function backgroundSvg(kind: SceneKind, w: number, h: number, r: () => number): { body: string; horizon: number } {
  const palette = palettes[kind][Math.floor(r() * 3)] ?? palettes[kind][0]
  const [top, low, ground] = palette as [string, string, string]
  const k = w / 100
  const horizon = h * (0.5 + r() * 0.14)
  let body = `<defs><linearGradient id="g" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${top}"/><stop offset=".6" stop-color="${low}"/></linearGradient></defs><rect width="${w}" height="${h}" fill="url(#g)"/>`
  if (!noHorizon.has(kind)) {
    body += `<rect y="${horizon}" width="${w}" height="${h - horizon}" fill="${ground}"/>`
    for (let i = 0; i < 60; i++) {
      const y = horizon + (h - horizon) * r() ** 1.4
      body += `<rect x="${w * r()}" y="${y}" width="${w * (0.03 + 0.12 * r())}" height="${Math.max(2, h * 0.006 * (1 + (3 * (y - horizon)) / h))}" fill="${i % 2 ? '#fff' : '#000'}" opacity=".12"/>`
    }
  }
  if (kind === 'harbour')
    for (let i = 0; i < 9; i++) {
      const t = (6 + r() * 14) * k
      body += `<rect x="${i * 12 * k}" y="${horizon - t}" width="${10.5 * k}" height="${t + 2 * k}" fill="#5b4a44"/><rect x="${(i * 12 + 3) * k}" y="${horizon - t + 2 * k}" width="${2 * k}" height="${2.4 * k}" fill="#e9cfa0" opacity=".7"/>`
    }
  if (kind === 'deck') {
    body += `<polygon points="0,${h} ${w * 0.3},${horizon} ${w * 0.75},${horizon} ${w},${h}" fill="#6a5a4a"/>`
    for (let i = 0; i < 9; i++)
      body += `<line x1="${(w * i) / 8}" y1="${h}" x2="${w * (0.3 + (0.45 * i) / 8)}" y2="${horizon}" stroke="#4a3d31" stroke-width="${0.25 * k}"/>`
    body += `<line x1="0" y1="${h * 0.5}" x2="${w * 0.33}" y2="${horizon - 6 * k}" stroke="#e8e2d4" stroke-width="${k}"/>`
  }
  if (kind === 'rope')
    for (let i = 9; i > 0; i--)
      body += `<ellipse cx="${w * 0.5}" cy="${h * 0.58}" rx="${i * 4.7 * k}" ry="${i * 2.3 * k}" fill="none" stroke="${i % 2 ? '#c9a871' : '#8f744a'}" stroke-width="${4.4 * k}"/>`
  if (kind === 'wheel')
    body += `<rect x="${w * 0.08}" y="${h * 0.12}" width="${w * 0.36}" height="${h * 0.38}" fill="#9fb3b8"/><rect x="${w * 0.5}" y="${h * 0.12}" width="${w * 0.4}" height="${h * 0.38}" fill="#9fb3b8"/><rect y="${h * 0.8}" width="${w}" height="${h * 0.2}" fill="#15191b"/>`
  if (kind === 'mate') body += `<ellipse cx="${w * 0.5}" cy="${h * 1.06}" rx="${h * 0.6}" ry="${h * 0.36}" fill="#2c2b2f"/>`
  if (kind === 'night')
    for (let i = 0; i < 30; i++) body += `<circle cx="${w * r()}" cy="${horizon * r()}" r="${0.15 * k + 0.2 * k * r()}" fill="#dfe6ff" opacity=".8"/>`
  if (kind === 'moon') for (let i = 0; i < 60; i++) body += `<circle cx="${w * r()}" cy="${h * r()}" r="${0.1 * k + 0.15 * k * r()}" fill="#fff" opacity=".5"/>`
  return { body, horizon }
}

const ship = (k: number, dark: boolean): { w: number; h: number; body: string } => {
  const lamp = dark ? '#f5d98a' : '#55656a'
  let body = `<polygon points="0,${15 * k} ${38 * k},${15 * k} ${34 * k},${22 * k} ${4 * k},${22 * k}" fill="${dark ? '#0a0f18' : '#2c3336'}"/><rect x="${7 * k}" y="${8 * k}" width="${22 * k}" height="${7 * k}" fill="${dark ? '#1a2233' : '#e6e0d2'}"/><rect x="${12 * k}" y="${3 * k}" width="${10 * k}" height="${5 * k}" fill="${dark ? '#1a2233' : '#e6e0d2'}"/><rect x="${23 * k}" y="0" width="${4 * k}" height="${8 * k}" fill="#b4472f"/>`
  for (let i = 0; i < 6; i++) body += `<rect x="${(8.5 + 3.4 * i) * k}" y="${10 * k}" width="${1.7 * k}" height="${2.2 * k}" fill="${lamp}"/>`
  return { w: Math.ceil(38 * k), h: Math.ceil(22 * k), body }
}

/** Even whole pixels: chroma stays in place. */
const whole = (expression: string): string => `2*floor((${expression})/2)`

/** A scene of this kind; `seed` makes it unlike every other of its kind. */
export async function drawScene(kind: SceneKind, seed: number, w: number, h: number): Promise<Scene> {
  const r = random(seed)
  const k = w / 100
  const { body, horizon } = backgroundSvg(kind, w, h, r)
  const sprites: { w: number; h: number; body: string; x: string; y: string }[] = []
  const speed = (8 + r() * 7) * k * (r() < 0.5 ? -1 : 1)
  const across = (sw: number, v: number, from: number) => whole(`mod(${from}+${v}*t+${10 * (w + sw)},${w + sw})-${sw}`)
  if (kind === 'ferry' || kind === 'harbour' || kind === 'night') {
    const s = ship(k * (0.8 + 0.5 * r()), kind === 'night')
    sprites.push({ ...s, x: across(s.w, speed, w * (0.3 + 0.4 * r())), y: whole(`${horizon - s.h * 0.8}+${0.5 * k}*sin(3*t)`) })
  }
  if (kind === 'gulls' || kind === 'ferry' || kind === 'deck') {
    for (let i = 0; i < (kind === 'gulls' ? 5 : 2); i++) {
      const a = (3 + 5 * r()) * k
      const sw = Math.ceil(a * 2)
      const sh = Math.ceil(a * 1.2)
      sprites.push({
        w: sw,
        h: sh,
        body: `<path d="M${a * 0.1} ${a * 0.5}Q${a * 0.5} ${a * 0.05} ${a} ${a * 0.8}Q${a * 1.5} ${a * 0.05} ${a * 1.9} ${a * 0.5}" fill="none" stroke="#f4f4f0" stroke-width="${a * 0.2}"/>`,
        x: across(sw, speed * (0.8 + r()), w * r()),
        y: whole(`${h * (0.08 + 0.3 * r())}+${3 * k}*sin(${2 + 3 * r()}*t+${6 * r()})`),
      })
    }
  }
  if (kind === 'deck' || kind === 'rope') {
    const a = 7 * k
    sprites.push({
      w: Math.ceil(a * 2),
      h: Math.ceil(a * 2),
      body: `<circle cx="${a}" cy="${a}" r="${a * 0.9}" fill="none" stroke="#d8572f" stroke-width="${a * 0.35}"/><circle cx="${a}" cy="${a}" r="${a * 0.9}" fill="none" stroke="#eee6d6" stroke-width="${a * 0.35}" stroke-dasharray="${a} ${a}"/>`,
      x: across(a * 2, -speed * 1.3, w * r()),
      y: whole(`${h * (0.66 + 0.1 * r())}+${2 * k}*sin(2*t)`),
    })
  }
  if (kind === 'wheel') {
    const a = h * 0.34
    let spokes = ''
    for (let i = 0; i < 8; i++)
      spokes += `<line x1="${a}" y1="${a}" x2="${a + Math.cos(i * 0.785 + seed) * a * 0.98}" y2="${a + Math.sin(i * 0.785 + seed) * a * 0.98}" stroke="#8a6a41" stroke-width="${2 * k}"/>`
    sprites.push({
      w: Math.ceil(a * 2),
      h: Math.ceil(a * 2),
      body: `<circle cx="${a}" cy="${a}" r="${a * 0.76}" fill="none" stroke="#8a6a41" stroke-width="${3 * k}"/>${spokes}`,
      x: whole(`${w * 0.5 - a}+${10 * k}*sin(${1.2 + r()}*t+${6 * r()})`),
      y: whole(`${h * 0.42}+${1.5 * k}*sin(2.3*t)`),
    })
  }
  if (kind === 'mate') {
    const a = h * 0.25
    const skin = ['#c29a7c', '#8d6a50', '#d9b48f'][Math.floor(r() * 3)]
    sprites.push({
      w: Math.ceil(a * 2),
      h: Math.ceil(a * 2.4),
      body: `<ellipse cx="${a}" cy="${a * 1.3}" rx="${a * 0.8}" ry="${a * 1.05}" fill="${skin}"/><rect x="${a * 0.2}" y="${a * 0.1}" width="${a * 1.6}" height="${a * 0.45}" rx="${a * 0.1}" fill="#3d4650"/><circle cx="${a * 0.7}" cy="${a * 1.2}" r="${a * 0.08}"/><circle cx="${a * 1.3}" cy="${a * 1.2}" r="${a * 0.08}"/>`,
      x: whole(`${w * (0.32 + 0.2 * r())}+${9 * k}*sin(${1.5 + r()}*t+${6 * r()})`),
      y: whole(`${h * 0.16}+${2.4 * k}*sin(${2 + r()}*t)`),
    })
  }
  if (kind === 'moon') {
    const a = h * 0.34
    let craters = ''
    for (let i = 0; i < 14; i++) craters += `<circle cx="${a * (0.5 + r())}" cy="${a * (0.5 + r())}" r="${a * 0.16 * r()}" fill="#333" opacity=".16"/>`
    sprites.push({
      w: Math.ceil(a * 2),
      h: Math.ceil(a * 2),
      body: `<circle cx="${a}" cy="${a}" r="${a * 0.98}" fill="#d9d6cc"/>${craters}`,
      x: whole(`${w * 0.2}+${7 * k}*t`),
      y: whole(`${h * 0.1}+${2 * k}*t`),
    })
  }
  const [background, ...pngs] = await Promise.all([
    sharp(svg(w, h, body))
      .png({ compressionLevel: 1 })
      .toBuffer(),
    ...sprites.map((s) =>
      sharp(svg(s.w, s.h, s.body))
        .png({ compressionLevel: 1 })
        .toBuffer(),
    ),
  ])
  return { background: background as Buffer, sprites: sprites.map((s, i) => ({ png: pngs[i] as Buffer, x: s.x, y: s.y })) }
}
