/** Files of color decision lists (ASC CDL 1.2). */
import type { Cdl, Rgb } from '@naranja/core/look'
import { XMLParser } from 'fast-xml-parser'
import { readXml } from './read/index.ts'

type Node = Record<string, unknown>
const parser = new XMLParser({ removeNSPrefix: true, ignoreAttributes: false, attributeNamePrefix: '@', parseTagValue: false, parseAttributeValue: false })

const numbers = (text: unknown, count: number): number[] | null => {
  const list = typeof text === 'string' ? text.trim().split(/\s+/).map(Number) : []
  return list.length === count && list.every(Number.isFinite) ? list : null
}

/**
 * The corrections of a `.cdl`, `.ccc` or `.cc` file, in order, with their ids. Numbers out of range are a problem: slope and
 * saturation are at least 0, power above 0.
 */
export function readCdl(text: string): { value: { readonly id: string; readonly cdl: Cdl }[]; problems: string[] } {
  const read = readXml(parser, text)
  if ('fault' in read) return { value: [], problems: [`Line ${read.line}: ${read.fault}.`] }
  const problems: string[] = []
  const value: { id: string; cdl: Cdl }[] = []
  const correction = (n: Node) => {
    const id = typeof n['@id'] === 'string' ? n['@id'] : `correction ${value.length + 1}`
    const sop = (n.SOPNode ?? n.ASC_SOP) as Node | undefined
    const sat = (n.SatNode ?? n.SATNode ?? n.ASC_SAT) as Node | undefined
    const triple = (name: string, plain: Rgb): Rgb | null => {
      if (sop?.[name] === undefined) return plain
      const list = numbers(sop[name], 3)
      if (!list) problems.push(`${id}: ${name} is not three numbers.`)
      return list as Rgb | null
    }
    const [slope, offset, power] = [triple('Slope', [1, 1, 1]), triple('Offset', [0, 0, 0]), triple('Power', [1, 1, 1])]
    const saturation = sat?.Saturation === undefined ? [1] : numbers(sat.Saturation, 1)
    if (!saturation) problems.push(`${id}: Saturation is not a number.`)
    if (!slope || !offset || !power || !saturation) return
    if (slope.some((v) => v < 0) || power.some((v) => v <= 0) || (saturation[0] as number) < 0) {
      problems.push(`${id}: a slope or saturation below 0, or a power that is not above 0.`)
      return
    }
    value.push({ id, cdl: { slope, offset, power, saturation: saturation[0] as number } })
  }
  const visit = (node: unknown, depth: number): void => {
    if (depth > 20 || typeof node !== 'object' || node === null) return
    if (Array.isArray(node)) {
      for (const n of node) visit(n, depth + 1)
      return
    }
    for (const [key, inner] of Object.entries(node)) {
      if (key !== 'ColorCorrection') visit(inner, depth + 1)
      else for (const n of Array.isArray(inner) ? inner : [inner]) if (typeof n === 'object' && n !== null) correction(n as Node)
    }
  }
  visit(read.root, 0)
  if (value.length === 0 && problems.length === 0) problems.push('No ColorCorrection is in this file.')
  return { value, problems }
}
