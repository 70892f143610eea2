/** What notices are called over many clips. */
import type { ClipRow } from '@naranja/contract'

export const noticeNames: Readonly<Record<string, string>> = {
  'no-timecode': 'no timecode',
  'no-reel': 'no reel',
  'other-rate': 'other rate',
  'same-name': 'same name twice',
  fault: 'not decodable',
  gone: 'gone',
  'long-gop': 'hard to edit',
  'missing-numbers': 'missing numbers',
  counted: 'slow to step',
  'off-speed': 'shot at another speed',
  'edit-copy': 'edit copies',
  'zero-timecode': 'starts at zero',
  changed: 'changed on disk',
  'light-copy': 'light copies',
  'marked-light': 'marked light',
  'variable-rate': 'variable rate',
  'silent-channels': 'silent channels',
  rotated: 'turned',
  squeezed: 'squeezed',
  fields: 'fields',
  'other-shape': 'other shape',
  'easy-to-edit': 'edits easily',
}

/** Whether a clip is, or looks like, a light copy of another. */
export const isLightClip = (c: Pick<ClipRow, 'notices'>): boolean => c.notices.some((n) => ['light-copy', 'marked-light', 'edit-copy'].includes(n.code))
