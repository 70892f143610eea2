/** Pieces that several pages share. */
export { FinishFromCopies } from './FinishFromCopies.tsx'
export { LogChoice } from './LogChoice.tsx'
export { Messages } from './Messages.tsx'
export { OnlyKnownBrowsers, Warnings } from './Warnings.tsx'
export { WhatFailed } from './WhatFailed.tsx'
