/** For tests: a canvas that writes down what is drawn on it, each mark with the colour it was drawn in. */
export interface Mark {
  readonly what: string
  readonly args: readonly unknown[]
  readonly fill: string
  readonly stroke: string
  readonly dashed: boolean
}

export function recorder(): { g: CanvasRenderingContext2D; marks: Mark[]; texts: () => string[] } {
  const marks: Mark[] = []
  const state: Record<string, unknown> = { fillStyle: '', strokeStyle: '' }
  let dashed = false
  const g = new Proxy(state, {
    get(_, name: string) {
      if (name in state) return state[name]
      return (...args: unknown[]) => {
        if (name === 'measureText') return { width: String(args[0]).length * 6 }
        if (name === 'setLineDash') dashed = (args[0] as number[]).length > 0
        marks.push({ what: name, args, fill: String(state.fillStyle), stroke: String(state.strokeStyle), dashed })
      }
    },
    set(_, name: string, value) {
      state[name] = value
      return true
    },
  }) as unknown as CanvasRenderingContext2D
  return { g, marks, texts: () => marks.filter((m) => m.what === 'fillText').map((m) => String(m.args[0])) }
}
