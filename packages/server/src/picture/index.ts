/** How the picture of a clip is developed, cropped and graded. */
export { type Comparable, finishingInput, inputOf, pickGrey, picturedClip, projectDecode, setDecode, setProjectDecode, shownAs } from './decode.ts'
export { setCrop, setLook } from './framing.ts'
export { addLooks, forgetLook, listLooks, lookOf, type Tried } from './looks.ts'
export { pictureTakeBacks } from './takeBacks.ts'
