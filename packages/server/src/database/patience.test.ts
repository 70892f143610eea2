/** What the database gives up is done again, and only that. */
import type { DataSource } from 'typeorm'
import { describe, expect, it } from 'vitest'
import { makePatient, patiently } from './patience.ts'

const failing = (times: number, errno?: number) => {
  let n = 0
  return async () => {
    if (n++ < times) throw Object.assign(new Error('given up'), { errno })
    return n
  }
}

describe('work on the database', () => {
  it('is done again where it was given up for another', async () => {
    expect(await patiently(failing(3, 1213))).toBe(4)
    expect(await patiently(failing(1, 1205))).toBe(2)
  })
  it('fails where it is wrong, or given up again and again', async () => {
    await expect(patiently(failing(1, 1062))).rejects.toThrow('given up')
    await expect(patiently(failing(1))).rejects.toThrow('given up')
    await expect(patiently(failing(8, 1213))).rejects.toThrow('given up')
  })
  it('is patient in every statement that stands alone, and leaves those of a transaction to it', async () => {
    const runner = { isTransactionActive: false, query: failing(2, 1213) }
    const db = { createQueryRunner: () => runner } as unknown as DataSource
    makePatient(db)
    expect(await db.createQueryRunner().query('UPDATE task')).toBe(3)
    Object.assign(runner, { isTransactionActive: true, query: failing(2, 1213) })
    await expect(db.createQueryRunner().query('UPDATE task')).rejects.toThrow('given up')
  })
})
