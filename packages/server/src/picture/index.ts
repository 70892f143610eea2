/** How the picture of a clip is developed, cropped and graded. */
export { finishingInput, inputOf, pickGrey, projectDecode, shownAs } from './decode.ts'
export { lookOf, type Tried } from './looks.ts'
export { pictureRoutes } from './routes.ts'
export { pictureTakeBacks } from './takeBacks.ts'
