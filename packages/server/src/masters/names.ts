/** What masters are made by, and what they are called until they are checked. */
import { specOf, type Spec } from '@naranja/core/specs'

export const masterSpec = specOf('master-prores-hq') as Spec
/** The name of a master that is rendered, and not checked yet. */
export const uncheckedName = (path: string): string => path.replace(/\.mov$/, ' unchecked.mov')
