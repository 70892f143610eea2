/** What a folder becomes when it is taken in: what each file is to the list, and what of a clip stays as people gave it. */
export * from './intake.ts'
