import { useThumbs } from '../../data/queries'
import { withUnit } from '../../data/measures'
import type { Hands, PhoneTime } from './phonesGave'

/** Further phones that time the fall in hand: how many are ready and how well the clocks agree; then what each gave. One that did not see it holds
 *  nothing up. */
export function Phones({ study, hands, one, onTake }: { study: string; hands: Hands; one: boolean; onTake: (t: PhoneTime) => void }) {
  const thumbs = useThumbs(study).data ?? []
  const { timers, times, worst } = hands
  const late = (label: string): string => {
    const t = thumbs.find((x) => x.who === label)
    return t && Math.abs(t.bias_s) >= 0.005 ? `; in practice ${Math.abs(t.bias_s).toFixed(2)} s ${t.bias_s > 0 ? 'too long' : 'too short'}` : ''
  }
  if (!times.length)
    return timers.length ? (
      <p className="m-0 mt-2" role="status" data-phones={timers.length}>
        <strong>{timers.length === 1 ? '1 timer ready' : `${timers.length} timers ready`}</strong>
        {worst === null ? ', clocks are being compared' : `, clocks agree within ${Math.max(1, Math.round(worst * 1000 * 2))} ms`}
      </p>
    ) : null
  return (
    <ul className="m-0 mt-2 flex list-none flex-wrap gap-x-6 gap-y-1 p-0" aria-label="Further timers" data-phones={timers.length}>
      {times.map((t) => (
        <li key={t.screen}>
          <strong>{t.label}</strong> {t.text === null ? 'did not see it' : withUnit(t.text, 's')}
          <span className="text-quiet">{late(t.label)}</span>
          {one && t.text !== null ? (
            <button type="button" className="btn btn-plain min-h-[44px]" onClick={() => onTake(t)}>
              Take it
            </button>
          ) : null}
        </li>
      ))}
    </ul>
  )
}
