/** Edit copies: made, framed, compared, paired, renamed. */
export { Copies } from './Copies.tsx'
