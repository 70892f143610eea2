/** Where things lie, and what is said on the terminal. */
export { buildServerAgain, buildWeb, serving } from './built.ts'
export { type Address, addressText, parseAddress } from './address.ts'
export { dataFolder, font, fonts, home, mediaParents, userHome, webDist } from './paths.ts'
export { writeReport } from './report.ts'
export { minuteOf, say, step } from './say.ts'
