/** What a spec does, in words. */
import type { SpecRow } from '@naranja/contract'

export const frameWords = (s: SpecRow): string => {
  const f = s.frame
  const upTo = s.enlarge ? '' : ' at most'
  if (f.by === 'original') return "the original's size"
  if (f.by === 'exact') return `${f.width}×${f.height}, ${{ fit: 'fitted', fill: 'filled', stretch: 'stretched', centre: 'centre 1:1' }[s.framing]}`
  return f.by === 'height' ? `${f.height} high${upTo}, shape kept` : `${f.width} wide${upTo}, shape kept`
}
export const soundWords = (s: SpecRow): string =>
  ({
    all: 'all channels',
    unsilent: 'all but silent channels',
    chosen: `channels ${s.sound.chosen.join(', ')}`,
    mix: 'a mix-down',
    none: 'none',
  })[s.sound.channels]
/** What copies under a spec keep of their originals. */
export const keeps = (s: SpecRow): string => {
  const kept = [
    s.naming.before || s.naming.after ? '' : 'names',
    'timecode',
    'reel',
    s.sound.channels === 'all' ? 'all sound' : '',
    s.rate === 'as-shot' ? 'rate and every frame' : '',
  ].filter(Boolean)
  return `Keeps ${kept.slice(0, -1).join(', ')}${kept.length > 1 ? (s.rate === 'as-shot' ? ', ' : ' and ') : ''}${kept.at(-1)}.`
}
