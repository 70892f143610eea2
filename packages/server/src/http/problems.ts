/** Whatever goes wrong is answered by a code, a sentence and the status that fits. */
import { MediaError } from '@naranja/media'
import type { FastifyInstance } from 'fastify'
import { hasZodFastifySchemaValidationErrors, isResponseSerializationError } from 'fastify-type-provider-zod'
import { diskRefusal, Refusal } from '../platform/index.ts'

/** An answer that says no, as the contract has it. */
export const problem = (code: string, message: string, details: string[] = [], now?: unknown) => ({ error: { code, message, details, now } })

export function answerProblems(app: FastifyInstance, folder: string): void {
  app.setErrorHandler((error: Error & { statusCode?: number; validation?: unknown }, req, reply) => {
    if (error instanceof Refusal) return reply.code(error.status).send(problem(error.code, error.message, error.details, error.now))
    // The database keeps what must be there once: whoever comes second is told.
    if ((error as { code?: string }).code === 'ER_DUP_ENTRY')
      return reply
        .code(409)
        .send(problem('taken', 'Somebody else did the same at this moment. Look at what is there now, and do it again if it is still wanted.'))
    const disk = diskRefusal(error as { code?: string })
    if (disk) return reply.code(disk.status).send(problem(disk.code, disk.message))
    if (error instanceof MediaError) return reply.code(422).send(problem('unreadable', error.message))
    if (hasZodFastifySchemaValidationErrors(error))
      return reply
        .code(400)
        .send(
          problem('bad-request', `The request is not valid: ${error.validation.map((v) => `${v.instancePath.slice(1) || 'body'}: ${v.message}`).join('; ')}.`),
        )
    if (isResponseSerializationError(error)) req.log.error({ issues: error.cause.issues, url: req.url }, 'an answer does not fit the contract')
    else if (!error.statusCode || error.statusCode >= 500) req.log.error(error)
    const status = error.statusCode && error.statusCode < 500 ? error.statusCode : 500
    return reply
      .code(status)
      .send(
        problem(
          status === 500 ? 'internal' : 'bad-request',
          status === 500 ? `Something went wrong inside Naranja: ${error.message}. The log in ${folder} says more.` : error.message,
        ),
      )
  })
}
