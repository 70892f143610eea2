/** How a clip is given to FFmpeg: its picture, raw or not, and every channel of its sound. */
export { clipInput, firstPicture, inputArgs, leadOf, type MediaInput, plainName } from './input.ts'
export { cameraColour, development, ppmHeading, shownFilter } from './raw.ts'
export { channelInput, hasSoundFiles, inPlace, soundInputs, soundOpened, soundSearchable, soundStreams, wholeSound } from './sound.ts'
