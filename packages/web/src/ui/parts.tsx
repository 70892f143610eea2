/** Building blocks, once each. */
import { Dialog as RadixDialog, ToggleGroup } from 'radix-ui'
import { type ButtonHTMLAttributes, type ReactNode, useId } from 'react'
import { X } from 'lucide-react'

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  main?: boolean
  quiet?: boolean
}
export function Button({ main, quiet, className = '', type = 'button', ...rest }: ButtonProps) {
  const look = main
    ? 'bg-zest border-zest text-zest-ink font-[650]'
    : quiet
      ? 'border-transparent text-ink-2 hover:text-ink hover:bg-raised'
      : 'bg-raised border-line text-ink hover:border-ink-3'
  return (
    <button
      type={type}
      className={`inline-flex items-center justify-center gap-1.5 rounded-md border px-2.5 py-[4.5px] whitespace-nowrap disabled:opacity-55 aria-pressed:shadow-[inset_0_0_0_1px_var(--ink-2)] ${look} ${className}`}
      {...rest}
    />
  )
}

/** One of a few. */
export function Choice<T extends string>({
  value,
  onChange,
  options,
  label,
}: {
  value: T
  onChange: (v: T) => void
  options: readonly (readonly [T, ReactNode])[]
  label: string
}) {
  return (
    <ToggleGroup.Root
      type="single"
      value={value}
      onValueChange={(v) => v && onChange(v as T)}
      aria-label={label}
      className="flex overflow-hidden rounded-md border border-line"
    >
      {options.map(([v, text]) => (
        <ToggleGroup.Item
          key={v}
          value={v}
          className="rounded-[5px] px-2.5 py-[4.5px] whitespace-nowrap text-ink-2 data-[state=on]:bg-raised data-[state=on]:text-ink data-[state=on]:shadow-[inset_0_0_0_1px_var(--ink-2)]"
        >
          {text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}

/** One of many, in a list that opens: the options, or `<option>`s as children where they differ in kind. It has a `label`, or an `id` that a label beside it names. */
export function Select<T extends string>({
  value,
  onChange,
  options,
  label,
  id,
  disabled,
  className = '',
  children,
}: {
  value: T | number
  onChange: (v: T) => void
  options?: readonly (readonly [T, string])[]
  label?: string
  id?: string
  disabled?: boolean
  className?: string
  children?: ReactNode
}) {
  return (
    <select
      id={id}
      aria-label={label}
      disabled={disabled}
      className={`${inputLook} disabled:opacity-55 ${className}`}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {children}
      {options?.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </select>
  )
}

export function Dialog({ open, onClose, title, wide, children }: { open: boolean; onClose: () => void; title: string; wide?: boolean; children: ReactNode }) {
  return (
    <RadixDialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/55" />
        <RadixDialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-50 flex max-h-[86vh] -translate-x-1/2 -translate-y-1/2 flex-col rounded-lg border border-line bg-panel shadow-2xl ${wide ? 'w-[860px]' : 'w-[480px]'} max-w-[94vw]`}
        >
          <div className="flex items-center justify-between border-b border-line px-4 py-2.5">
            <RadixDialog.Title className="text-[15px] font-[650]">{title}</RadixDialog.Title>
            <RadixDialog.Close aria-label="Close" className="rounded p-1 text-ink-2 hover:text-ink">
              <X size={16} />
            </RadixDialog.Close>
          </div>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  )
}

/** A label and its value, in a list of facts. */
export function Fact({ name, children, mono }: { name: string; children: ReactNode; mono?: boolean }) {
  return (
    <>
      <dt className="text-ink-3">{name}</dt>
      <dd className={`m-0 min-w-0 break-words ${mono ? 'mono' : ''}`}>{children}</dd>
    </>
  )
}

/** A row of a summary: name at the left, figure at the right. */
export function Figure({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex justify-between gap-3 border-b border-line/70 py-[6px]">
      <span className="text-ink-3">{name}</span>
      <span className="text-right">{children}</span>
    </div>
  )
}

export function Field({ label, hint, children }: { label: string; hint?: ReactNode; children: (id: string) => ReactNode }) {
  const id = useId()
  return (
    <div className="flex w-full min-w-0 flex-col gap-1">
      <label htmlFor={id} className="text-ink-2">
        {label}
      </label>
      {children(id)}
      {hint && <span className="text-xs text-ink-3">{hint}</span>}
    </div>
  )
}
export const inputLook = 'min-w-0 rounded-md border border-line bg-ground px-2 py-[4.5px] text-ink'

/** A bar that fills. */
export function Bar({ share, label, className = 'w-[150px]' }: { share: number; label: string; className?: string }) {
  const now = Math.round(share * 100)
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={now}
      className={`h-[5px] overflow-hidden rounded-full bg-line ${className}`}
    >
      <div className="h-full bg-tide" style={{ width: `${now}%` }} />
    </div>
  )
}

interface EmptyProps {
  title: string
  children: ReactNode
  action?: ReactNode
  /** The page of the guide about it. */
  guide?: string
}
/** What a step is for, its first action, and where it is told how it works. */
export function Empty({ title, children, action, guide }: EmptyProps) {
  return (
    <div className="m-auto flex max-w-[460px] flex-col items-center gap-3 p-8 text-center">
      <h2 className="m-0 text-[15px] font-[650]">{title}</h2>
      <p className="m-0 text-ink-2">{children}</p>
      {action}
      {guide && (
        <a href={guide} target="_blank" rel="noreferrer" className="text-ink-2 underline hover:text-ink">
          How this works
        </a>
      )}
    </div>
  )
}

export const Kbd = ({ children }: { children: ReactNode }) => <kbd className="rounded border border-line px-1 font-mono text-[11px] text-ink-2">{children}</kbd>

/** The head of a step. */
export function Head({ title, sub, children }: { title: string; sub?: ReactNode; children?: ReactNode }) {
  return (
    <div className="flex h-[42px] flex-none items-center gap-3 border-b border-line px-3">
      <h1 className="m-0 text-[15px] font-[650] whitespace-nowrap">{title}</h1>
      <div className="flex min-w-0 items-center gap-3 overflow-hidden whitespace-nowrap text-ink-2">{sub}</div>
      <div className="ml-auto flex flex-none items-center gap-2">{children}</div>
    </div>
  )
}

/** Of a short list beside the folders. */
export const listHeading = 'm-0 px-1 pt-1 pb-0.5 text-xs font-normal text-ink-3'
