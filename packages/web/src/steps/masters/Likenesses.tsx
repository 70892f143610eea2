/** Pictures of a master in record time, and its likeness to the sources below. */
import { addressOf, type MasterRow, routes } from '@naranja/contract'
import { useCallback, useMemo } from 'react'
import { Canvas, type Draw, usePictures } from '../../charts/index.ts'
import { perCent } from '../../ui/index.ts'

export function Likenesses({ master, length }: { master: MasterRow; length: number }) {
  const picture = usePictures()
  const events = useMemo(
    () => [...(master.report?.events ?? [])].filter((e) => e.points.length).sort((a, b) => (a.points[0]?.frame ?? 0) - (b.points[0]?.frame ?? 0)),
    [master],
  )
  const draw: Draw = useCallback(
    (g, w, _h, colour) => {
      const x = (f: number) => 70 + (f / Math.max(1, length)) * (w - 82)
      g.textBaseline = 'middle'
      g.font = '12px "Hanken Grotesk Variable", sans-serif'
      g.fillStyle = colour('ink-3')
      g.fillText('picture', 12, 34)
      g.fillText('likeness', 12, 84)
      g.fillText('level', 12, 112)
      g.fillStyle = colour('line')
      for (const y of [70, 98, 112]) g.fillRect(70, y, w - 82, 1)
      for (const e of events) {
        const a = e.points[0]?.frame ?? 0
        const b = (e.points.at(-1)?.frame ?? a) + 1
        const left = x(a)
        const width = Math.max(1, x(b) - left - 1.5)
        const middle = e.points[Math.floor(e.points.length / 2)]
        const image = width > 4 ? picture(addressOf(routes.masterStill, { masterId: master.id, frame: middle?.frame ?? a, width: 160 })) : null
        g.save()
        g.beginPath()
        g.rect(left, 10, width, 48)
        g.clip()
        g.fillStyle = colour('raised')
        g.fillRect(left, 10, width, 48)
        if (image) g.drawImage(image, left, 10, (48 * image.naturalWidth) / image.naturalHeight, 48)
        g.restore()
        const bad = e.points.some((p) => !p.passed)
        g.fillStyle = colour(bad ? 'pomegranate' : e.worst < 0.97 ? 'lemon' : 'ink-2')
        g.fillRect(left, 98 - Math.max(0, (e.worst - 0.9) / 0.1) * 26, width, bad ? 4 : 2)
        g.fillStyle = colour('ink-2')
        const level = e.points.reduce((n, p) => (Math.abs(p.level) > Math.abs(n) ? p.level : n), 0)
        g.fillRect(left, 112 - Math.max(-8, Math.min(8, level * 2)), width, 1.5)
      }
    },
    [events, length, master.id, picture],
  )
  return (
    <div className="flex-none border-b border-line">
      <Canvas
        height={124}
        draw={draw}
        label={`Likeness of ${events.length} events to their sources along the cut; the lowest is ${perCent(Math.min(1, ...events.map((e) => e.worst)))}`}
      />
    </div>
  )
}
