/** The route that says that the application is there. */
import type { Handlers } from '../platform/index.ts'

export const httpRoutes = {
  health: (ctx) => ({ ok: true, name: 'naranja', version: '0.1.0', instance: ctx.config.instance }),
} satisfies Partial<Handlers>
