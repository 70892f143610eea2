/** What requests ask of this room. */
import { bytesText } from '@naranja/core/estimate'
import { pageScript } from '../config/index.ts'
import type { Handlers } from '../platform/index.ts'
import { clearWorking, workingFiles } from './files.ts'
import { warningsNow } from './warnings.ts'

export const workingRoutes = {
  working: (ctx) => workingFiles(ctx),
  clearWorking: async (ctx) => {
    const freed = await clearWorking(ctx)
    return { sentence: freed ? `Working files cleared: ${bytesText(freed)} are free again.` : 'There was nothing to clear.' }
  },
  warnings: async (ctx) => ({ warnings: await warningsNow(ctx), page: pageScript(ctx.config.web) }),
} satisfies Partial<Handlers>
