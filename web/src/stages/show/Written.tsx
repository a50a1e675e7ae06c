import { useLayoutEffect, useRef } from 'react'

/** So many letters can a part have. */
export const MOST = 1200

/** A part that begins with what is known; the class may write its own over it. */
export function Written({
  part,
  label,
  known,
  texts,
  write,
  className = '',
}: {
  part: string
  label: string
  known: string
  texts: Record<string, string>
  write: ((part: string, text: string) => void) | undefined
  className?: string
}) {
  const box = useRef<HTMLTextAreaElement>(null)
  const text = texts[part] ?? known
  // biome-ignore lint/correctness/useExhaustiveDependencies: the box grows with its text
  useLayoutEffect(() => {
    if (!box.current) return
    box.current.style.height = '0'
    box.current.style.height = `${box.current.scrollHeight + 4}px`
  }, [text, write])
  if (!write) return text ? <p className={`m-0 whitespace-pre-line ${className}`}>{text}</p> : null
  const over = text.length - MOST
  return (
    <>
      <textarea
        ref={box}
        aria-label={label}
        aria-invalid={over > 0}
        data-part={part}
        rows={1}
        className={`w-full resize-none border-2 border-dashed border-ink bg-transparent p-1 text-[inherit] font-[inherit] text-ink ${className}`}
        value={text}
        onChange={(e) => write(part, e.target.value)}
      />
      {over > 0 ? (
        <span role="alert" className="block text-[0.9rem] font-semibold text-doubt">
          {over} letters too many: a part has at most {MOST}. It stays here; shorten it, and it is kept.
        </span>
      ) : null}
    </>
  )
}
