/** What people call a clip by: the fields, and how long each may be. */

/** Fields that people fill, in the order they are shown. */
export const describable = ['scene', 'take', 'angle', 'camera', 'reel', 'plain', 'notes'] as const
export type Field = (typeof describable)[number]

export const fieldNames: Readonly<Record<Field, string>> = {
  scene: 'Scene',
  take: 'Take',
  angle: 'Angle',
  camera: 'Camera',
  reel: 'Reel',
  plain: 'Plain name',
  notes: 'Notes',
}

/** Characters that fit. */
const longest: Readonly<Record<Field, number>> = { scene: 100, take: 100, angle: 100, camera: 100, reel: 200, plain: 300, notes: 2000 }

/**
 * A value as it is kept: in NFC, without spaces at its ends; line ends become spaces everywhere but in notes. Null for nothing.
 * Problem: a sentence, where it is too long.
 */
export function fieldValue(field: Field, text: string | null): { value: string | null; problem: string | null } {
  const flat = field === 'notes' ? (text ?? '') : (text ?? '').replace(/[\r\n\t]+/g, ' ')
  const value = flat.normalize('NFC').trim()
  if (value.length > longest[field])
    return { value: null, problem: `${fieldNames[field]} holds ${longest[field]} characters; this has ${value.length}. Shorten it.` }
  return { value: value === '' ? null : value, problem: null }
}
