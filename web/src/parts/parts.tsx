import { type ReactNode, Suspense, useId, useState } from 'react'
import { colourOf, shapeOf } from '../tape/geometry'
import type { SheetAsked } from './Over'
import { Says } from './Says'
import { soon } from './soon'

export { Says }

/** A label, its control and the sentence that belongs to it. The control gets its id and what describes it. */
export function Field({
  label,
  says,
  hint,
  children,
}: {
  label: string
  says?: string | undefined
  hint?: ReactNode
  children: (p: { id: string; 'aria-invalid': boolean; 'aria-describedby': string }) => ReactNode
}) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="block text-[0.92rem] font-semibold text-quiet">
        {label}
      </label>
      {children({ id, 'aria-invalid': Boolean(says), 'aria-describedby': `${id}-says` })}
      <div id={`${id}-says`} className="min-h-0 text-[0.92rem]">
        {says ? <Says>{says}</Says> : hint ? <p className="m-0 mt-1 text-quiet">{hint}</p> : null}
      </div>
    </div>
  )
}

type Asked = { label: string; says?: string | undefined; hint?: ReactNode }

/** One of a few choices, as a field. */
export function Pick<T extends string>({
  value,
  options,
  onChange,
  ...asked
}: Asked & { value: T; options: readonly (readonly [T, string])[]; onChange: (value: T) => void }) {
  return (
    <Field {...asked}>
      {(p) => (
        <span className="pick">
          <select {...p} className="field" value={value} onChange={(e) => onChange(e.target.value as T)}>
            {options.map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </select>
        </span>
      )}
    </Field>
  )
}

/** One line, or with `rows` several, to write on. */
export function Line({
  value,
  onChange,
  placeholder,
  rows,
  big = false,
  ...asked
}: Asked & { value: string; onChange: (value: string) => void; placeholder?: string; rows?: number; big?: boolean }) {
  const look = `field ${rows ? 'resize-none' : ''} ${big ? 'big text-[1.35rem]' : ''}`
  return (
    <Field {...asked}>
      {(p) =>
        rows ? (
          <textarea {...p} rows={rows} className={look} value={value} placeholder={placeholder} onChange={(e) => onChange(e.target.value)} />
        ) : (
          <input {...p} className={look} value={value} placeholder={placeholder} onChange={(e) => onChange(e.target.value)} />
        )
      }
    </Field>
  )
}

/** A number typed as text: an empty field is not 0, and nothing is clamped. */
export function Whole({
  value,
  onChange,
  least = 0,
  most = 999_999,
  parts = false,
  ...asked
}: Asked & { value: number; onChange: (n: number) => void; least?: number; most?: number; parts?: boolean }) {
  const [text, setText] = useState(String(value))
  const [known, setKnown] = useState(value)
  if (known !== value) {
    // changed from elsewhere (taken back, or by another person): what is shown follows, unless it already says so
    setKnown(value)
    if (Number(text.replace(',', '.')) !== value) setText(String(value))
  }
  const fits = (t: string) =>
    (parts ? /^\d{1,6}([.,]\d{1,3})?$/ : /^\d{1,6}$/).test(t) && Number(t.replace(',', '.')) >= least && Number(t.replace(',', '.')) <= most
  const bad = !fits(text.trim())
  const range = most < 999_999 ? ` from ${least} to ${most}` : ''
  return (
    <Field {...asked} says={bad ? `Write a ${parts ? '' : 'whole '}number${range}, such as ${Math.min(Math.max(5, least), most)}.` : asked.says}>
      {(p) => (
        <input
          {...p}
          inputMode={parts ? 'decimal' : 'numeric'}
          className="field big text-[1.35rem]"
          value={text}
          onChange={(e) => {
            const t = e.target.value.trim()
            setText(e.target.value)
            if (fits(t)) {
              setKnown(Number(t.replace(',', '.')))
              onChange(Number(t.replace(',', '.')))
            }
          }}
        />
      )}
    </Field>
  )
}

/** A box to tick with its sentence, large enough for a thumb. */
export function Tick({ checked, onChange, children }: { checked: boolean; onChange: (on: boolean) => void; children: ReactNode }) {
  return (
    <label className="flex min-h-[48px] cursor-pointer items-center gap-4">
      <input type="checkbox" className="h-7 w-7 shrink-0 accent-[var(--act)]" checked={checked} onChange={(e) => onChange(e.target.checked)} />
      <span>{children}</span>
    </label>
  )
}

/** A numbered or plain section: a rule in ink, its name, its parts. */
export function Part({ n, title, children, id }: { n?: string; title: string; children: ReactNode; id?: string }) {
  return (
    <section aria-label={title} id={id} className="grid grid-cols-[minmax(0,1fr)] gap-5 border-t-2 border-ink pt-3">
      <h2 className="m-0 text-[1.7rem]">
        {n ? <span className="mr-3 text-quiet">{n}</span> : null}
        {title}
      </h2>
      {children}
    </section>
  )
}

/** A refusal that is announced at once; nothing while there is none. */
export function Told({ says }: { says: string }) {
  return says ? (
    <div role="alert">
      <Says>{says}</Says>
    </div>
  ) : null
}

export function Key({ children }: { children: ReactNode }) {
  return (
    <span className="key" aria-hidden="true">
      {children}
    </span>
  )
}

export function Shape({ n, size = 16 }: { n: number; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="-12 -12 24 24" aria-hidden="true" className="inline-block shrink-0">
      <path d={shapeOf(n)(9.5)} fill={colourOf(n)} />
    </svg>
  )
}

const Over = soon(async () => ({ default: (await import('./Over')).Over }))

/** A sheet over the page: one question, closed by Escape. */
export function Sheet(asked: SheetAsked) {
  const [wanted, setWanted] = useState(asked.open)
  if (asked.open && !wanted) setWanted(true)
  return wanted ? (
    <Suspense fallback={null}>
      <Over {...asked} />
    </Suspense>
  ) : null
}

/** While an answer is on its way: grey lines where the words will stand. */
export function Skeleton({ lines = 3, part = false }: { lines?: number; part?: boolean }) {
  const Whole = part ? 'div' : 'main'
  return (
    <Whole aria-busy="true" className="grid gap-4 p-8">
      {part ? null : <h1 className="sr-only">Loading</h1>}
      <p className="sr-only" role="status">
        Loading
      </p>
      {Array.from({ length: lines }, (_, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity
        <div key={i} className="h-7 bg-hair" style={{ width: `${70 - i * 13}%` }} />
      ))}
    </Whole>
  )
}

export function Trouble({ error, again }: { error: unknown; again?: () => void }) {
  return (
    <div role="alert" className="p-8">
      <Says>{error instanceof Error ? error.message : 'Something went wrong.'}</Says>
      {again ? (
        <button type="button" className="btn mt-4" onClick={again}>
          Try again
        </button>
      ) : null}
    </div>
  )
}
