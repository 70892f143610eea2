/** How alike the pair is at each offset, drawn: the most alike, and where it is looked at. */
import { useCallback } from 'react'
import { Canvas, type Draw } from '../../charts/index.ts'
import { perCent } from '../../ui/index.ts'

export function Curve({ points, best, nudge }: { points: { offset: number; likeness: number }[]; best: number; nudge: number }) {
  const draw: Draw = useCallback(
    (g, w, h, colour) => {
      const low = Math.min(...points.map((p) => p.likeness))
      const x = (o: number) => ((o + 50) / 100) * (w - 120) + 30
      const y = (l: number) => h - 4 - ((l - low) / Math.max(0.02, 1 - low)) * (h - 10)
      g.strokeStyle = colour('ink')
      g.lineWidth = 1.5
      g.beginPath()
      for (const p of points) g.lineTo(x(p.offset), y(p.likeness))
      g.stroke()
      g.fillStyle = colour('line')
      g.fillRect(x(0), 0, 1, h)
      g.fillStyle = colour(best === 0 ? 'leaf' : 'lemon')
      g.fillRect(x(best) - 1, 0, 2, h)
      if (nudge !== 0) {
        // Where it is looked at now.
        g.fillStyle = colour('ink')
        g.beginPath()
        g.moveTo(x(nudge), h - 10)
        g.lineTo(x(nudge) - 4, h - 2)
        g.lineTo(x(nudge) + 4, h - 2)
        g.fill()
      }
      g.font = '11px "JetBrains Mono Variable", monospace'
      g.textBaseline = 'middle'
      g.fillStyle = colour('ink-3')
      g.fillText('−50', 2, h - 8)
      g.fillText('+50', w - 86, h - 8)
      g.fillStyle = colour('ink-2')
      const l = points.find((p) => p.offset === best)?.likeness ?? 0
      const text = `${best > 0 ? '+' : ''}${best}: ${perCent(l)}`
      g.fillText(text, Math.min(x(best) + 6, w - 82), 8)
    },
    [points, best, nudge],
  )
  return <Canvas height={44} draw={draw} label={`Likeness by offset: best at ${best} frames, looked at ${nudge}`} />
}
