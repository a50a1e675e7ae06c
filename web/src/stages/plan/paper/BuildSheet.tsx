import type { Draft, Templates } from '../../../data/api'
import { DeviceDrawing } from '../../../parts/DeviceDrawing'

export type Level = 'first' | 'middle' | 'senior'
type Build = NonNullable<Templates['build']>

/** The steps of a school's own sheet: a step on each line. */
export const ownSteps = (draft: Draft): string[] =>
  (draft.templates?.steps ?? '')
    .split('\n')
    .map((s) => s.trim())
    .filter(Boolean)

/** How the device is built, on one page: parts, steps with their minutes, the slips that ruin it, what to look at. */
export function BuildSheet({ build, draft, level, pictures = [] }: { build: Build; draft: Draft; level: Level; pictures?: string[] }) {
  const own = ownSteps(draft)
  const steps = own.length ? own.map((says) => ({ says, minutes: 0 })) : build.steps.map((s) => ({ says: s.says[level], minutes: s.minutes }))
  return (
    <article className="max-w-[60rem] text-[1.02rem] print:max-w-none" data-build-sheet={build.name}>
      <p className="m-0 text-quiet">{[draft.class_label, `about ${build.minutes} min`].filter(Boolean).join(' · ')}</p>
      <h2 className="m-0 text-[2rem]">{draft.templates?.title || `How to build the ${build.name}`}</h2>
      <p className="m-0 mt-1">
        <strong>Parts: </strong>
        {build.parts.join(', ')}. <strong>Tools: </strong>
        {build.tools.join(', ')}.
      </p>
      <ol className="m-0 mt-4 grid list-none gap-x-8 gap-y-2 p-0 md:grid-cols-2 print:grid-cols-2">
        {steps.map((s, i) => (
          <li key={s.says} className="grid grid-cols-[2.2rem_1fr_auto] items-baseline border-t border-hair pt-1">
            <span className="big text-[1.5rem]">{i + 1}</span>
            <span>{s.says}</span>
            {s.minutes ? <span className="num ml-2 whitespace-nowrap text-quiet">{s.minutes} min</span> : <span />}
          </li>
        ))}
      </ol>
      {pictures.length ? (
        <div className="mt-4 grid grid-cols-2 gap-4" data-own-pictures>
          {pictures.map((src, i) => (
            <img key={src} src={src} alt={`${i + 1} of the school’s own sheet`} className="max-h-[18rem] w-full border border-ink object-contain" />
          ))}
        </div>
      ) : null}
      <h3 className="mt-5 mb-1 text-[1.3rem]">What ruins it</h3>
      <div className="grid gap-x-8 gap-y-3 md:grid-cols-2 print:grid-cols-2">
        {build.slips.map((s) => (
          <figure key={s.says} className="m-0">
            <div className="grid grid-cols-2 gap-3">
              {(['right', 'wrong'] as const).map((which) => (
                <div key={which} className={`relative border-2 p-2 ${which === 'right' ? 'border-ink' : 'border-dashed border-ink'}`}>
                  <DeviceDrawing drawing={s[which]} label={s[which].says} className="h-[6.5rem] w-full" />
                  <p className="m-0 text-center font-bold">{which === 'right' ? '✓ right' : '✗ wrong'}</p>
                </div>
              ))}
            </div>
            <figcaption className="mt-1">
              {s.says} <span className="text-quiet">{own.length ? '' : `(Step ${s.at})`}</span>
            </figcaption>
          </figure>
        ))}
      </div>
      <div className="mt-4 grid gap-x-8 md:grid-cols-2 print:grid-cols-2">
        <div>
          <h3 className="mb-1 text-[1.3rem]">Before the first release</h3>
          <ul className="m-0 list-none p-0">
            {build.look.map((one) => (
              <li key={one}>☐ {one}</li>
            ))}
          </ul>
        </div>
        <div>
          <h3 className="mb-1 text-[1.3rem]">Care</h3>
          <ul className="m-0 pl-5">
            {build.cautions.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          <p className="m-0 mt-1 text-quiet">Your school’s own risk assessment, local rules and qualified staff decide.</p>
        </div>
      </div>
    </article>
  )
}
