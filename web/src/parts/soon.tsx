import { type ComponentType, createElement, lazy, useState } from 'react'
import { Says } from './Says'

/** A component that the first picture does not wait for. Where it cannot be fetched, a sentence stands in its place and the page goes on. */
export function later<P>(load: () => Promise<{ default: ComponentType<P> }>) {
  return lazy(async () => {
    try {
      return await load()
    } catch {
      return { default: NotFetched as ComponentType<P> }
    }
  })
}

/** The same, fetched right behind what the first picture needs, so that it is there before it is pressed for: it opens at once then, and no
 *  letter that is typed meanwhile is lost. */
export function soon<P extends object>(load: () => Promise<{ default: ComponentType<P> }>) {
  const held: Held<P> = { here: null, waited: later(load) as unknown as ComponentType<P> }
  // what cannot be fetched now is asked for again when it is opened
  setTimeout(() => {
    load().then(
      (got) => {
        held.here = got.default
      },
      () => undefined,
    )
  })
  return (given: P) => createElement(Soon<P>, { held, given })
}

type Held<P> = { here: ComponentType<P> | null; waited: ComponentType<P> }

function Soon<P extends object>({ held, given }: { held: Held<P>; given: P }) {
  const [Part] = useState<ComponentType<P>>(() => held.here ?? held.waited)
  return <Part {...given} />
}

function NotFetched() {
  return <Says>This part of the page is not on this device yet. Load the page again when there is a network.</Says>
}
