/** What every room stands on: config, context, refusals, words, and what several ask for made once. */
export { askedBy, digest, whoAsks } from './asking.ts'
export { type Context, type Control, controlChannel, everyTopic, liveChannel, newId, openContext, originalTopics, queueName, redisOptions } from './context.ts'
export { Derived, Parts, steadily } from './derived.ts'
export { endWhenAsked, logStream } from './ending.ts'
export { diskRefusal, found, isForRoom, Refusal, stale } from './errors.ts'
export { type ParsedRequest, Content, type Handlers, Json, keptFor, Pieces, savedAs } from './handlers.ts'
export { tableRows } from './tables.ts'
export { nameOrNumber, plural } from './words.ts'
