/** The address by which a worker on another machine joins: where the door is, what opens it, and by what its certificate is known. */
export interface Address {
  readonly host: string
  readonly port: number
  readonly token: string
  /** SHA-256 of the certificate, in hexadecimal. */
  readonly fingerprint: string
}

/** HOST:PORT/TOKEN.FINGERPRINT; null for any other text. */
export function parseAddress(text: string): Address | null {
  const t = /^(\[[0-9a-fA-F:]+\]|[^:/\s]+):(\d{1,5})\/([A-Za-z0-9_-]{16,})\.([0-9a-f]{64})$/.exec(text.trim())
  return t ? { host: (t[1] ?? '').replace(/^\[|\]$/g, ''), port: Number(t[2]), token: t[3] ?? '', fingerprint: t[4] ?? '' } : null
}
export const addressText = (host: string, port: number, token: string, fingerprint: string): string => `${host}:${port}/${token}.${fingerprint}`
