/** A pipe that a program writes into, and that is read through one buffer. */
import { randomUUID } from 'node:crypto'
import { closeSync, constants, openSync, unlinkSync } from 'node:fs'
import { type OnReadOpts, Socket, type SocketConstructorOpts } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { execa } from 'execa'

/** As much as a pipe holds. */
const bufferSize = 65536

export interface ReusedPipe {
  /** What is written, piece by piece; each is good until the next is asked for. Ends when whoever writes does. */
  readonly pieces: AsyncGenerator<Buffer>
  /** Stops reading. Whoever still writes is told that nobody reads any more. */
  close(): void
}

/**
 * Begins something that writes into a pipe: it is handed the number of the file to write to, which is open until it has begun. Node's own pipes to
 * programs make a new buffer for every 64 kB: for pictures of many megabytes, clearing those away takes longer than moving them. Rejects where the
 * system makes no pipe, and with what goes wrong in beginning.
 */
export async function reusedPipe<T>(begin: (writeEnd: number) => T): Promise<ReusedPipe & { readonly begun: T }> {
  const path = join(tmpdir(), `naranja-${randomUUID()}`)
  await execa('mkfifo', ['-m', '600', path])
  const ends: number[] = []
  try {
    // Whoever reads opens it first, without waiting for whoever writes.
    ends.push(openSync(path, constants.O_RDONLY | constants.O_NONBLOCK))
    ends.push(openSync(path, constants.O_WRONLY))
  } catch (e) {
    ends.forEach(closeSync)
    throw e
  } finally {
    unlinkSync(path)
  }
  const [readEnd, writeEnd] = ends as [number, number]
  const buffer = Buffer.allocUnsafeSlow(bufferSize)
  let waiting: (() => void) | null = null
  const wake = () => waiting?.()
  let length = 0
  const options: SocketConstructorOpts & { readonly onread: OnReadOpts } = {
    ...{ fd: readEnd, readable: true, writable: false },
    onread: {
      buffer,
      callback: (n) => {
        length = n
        wake()
        // No more until this piece is used.
        return false
      },
    },
  }
  const socket = new Socket(options)
  let failure: Error | null = null
  let over = false
  const end = () => {
    over = true
    wake()
  }
  socket.on('error', (e) => {
    failure = e
  })
  socket.on('end', end).on('close', end)
  async function* pieces(): AsyncGenerator<Buffer> {
    try {
      for (;;) {
        if (length === 0 && !over)
          await new Promise<void>((resolve) => {
            waiting = resolve
          })
        if (length === 0) break
        yield buffer.subarray(0, length)
        length = 0
        socket.resume()
      }
      if (failure) throw failure
    } finally {
      socket.destroy()
    }
  }
  const close = () => void socket.destroy()
  try {
    return { begun: begin(writeEnd), pieces: pieces(), close }
  } catch (e) {
    close()
    throw e
  } finally {
    // What is read ends when nobody else has this end.
    closeSync(writeEnd)
  }
}
