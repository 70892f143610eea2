/** What a command has done, as a JSON file for other programs. */
import { mkdir } from 'node:fs/promises'
import { dirname } from 'node:path'
import { writeWhole } from '@naranja/media/files'

/** Writes a report; its folder is made where it is missing. */
export async function writeReport(path: string, report: object): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  await writeWhole(path, `${JSON.stringify(report, null, 2)}\n`)
}
