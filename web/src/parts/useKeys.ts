import { useLayoutEffect, useRef } from 'react'

/** Keys of whatever is open, wherever the focus is; a field that is written in keeps its own. */
export function useKeys(onKey: (e: KeyboardEvent) => void): void {
  const hear = useRef(onKey)
  hear.current = onKey
  useLayoutEffect(() => {
    const heard = (e: KeyboardEvent) => {
      const field = e.target instanceof HTMLInputElement && e.target.type === 'text'
      if (!field && !e.ctrlKey && !e.metaKey && !(e.target instanceof HTMLSelectElement)) hear.current(e)
    }
    window.addEventListener('keydown', heard)
    return () => window.removeEventListener('keydown', heard)
  }, [])
}
