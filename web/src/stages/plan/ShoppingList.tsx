import { counted } from '../../parts/counted'
import type { Shopping, ShoppingLine, Study } from '../../data/api'
import { PaperHead } from '../../parts/PaperHead'

const grouped = (value: number) => value.toFixed(2).replace(/\B(?=(\d{3})+(?=\.))/g, ',')
const money = (value: number | null | undefined, sign: string) =>
  value == null ? '–' : sign.length === 1 && !/\w/.test(sign) ? `${sign}${grouped(value)}` : `${grouped(value)}${sign ? ` ${sign}` : ''}`

/** What to buy for all groups, the cheapest packs and what is left over; how sheets are cut. */
export function ShoppingList({ study, shopping, money: sign, tools }: { study: Study; shopping: Shopping; money: string; tools: string[] }) {
  return (
    <aside aria-label="Shopping list" className="content-start self-start border-t-[8px] border-tape pt-4 md:sticky md:top-4">
      <PaperHead study={study} what="to buy" />
      {tools.length ? <p className="m-0 mb-2">Once for the class: {tools.join(', ')}.</p> : null}
      <p className="big m-0 text-[3.6rem] leading-none">{shopping.total == null ? shopping.devices : money(shopping.total, sign)}</p>
      <p className="m-0 text-[1.1rem]">
        {shopping.total == null
          ? `${shopping.devices === 1 ? 'device' : 'devices'} to build`
          : `for ${counted(shopping.devices, 'device')} and ${study.draft.materials?.spare ?? 0} spare`}
      </p>
      {shopping.lines.length ? (
        <ul className="m-0 mt-4 list-none p-0">
          {shopping.lines.map((line) => (
            <Bought key={line.name} line={line} sign={sign} />
          ))}
        </ul>
      ) : (
        <p className="mt-4">Write what one device takes; the list for the class stands here.</p>
      )}
      {shopping.one != null ? (
        <dl className="hair mt-4 grid grid-cols-[1fr_auto] gap-x-4 gap-y-1 pt-3">
          <dt>One device, with assembly</dt>
          <dd className="num m-0 text-right font-bold">{money(shopping.one, sign)}</dd>
          <dt>A thousand, in the cheapest packs</dt>
          <dd className="num m-0 text-right font-bold">{money(shopping.thousand, sign)}</dd>
          {shopping.unpriced.length ? (
            <dd className="col-span-2 m-0 text-quiet" data-unpriced>
              Without {shopping.unpriced.join(', ')}: {shopping.unpriced.length === 1 ? 'it has' : 'they have'} no price yet.
            </dd>
          ) : null}
        </dl>
      ) : null}
      {shopping.lines.length ? (
        <div className="no-print mt-5 flex flex-wrap gap-3">
          <a className="btn" href={`/api/studies/${study.id}/shopping.csv`} download>
            List as CSV
          </a>
          <button type="button" className="btn" onClick={() => window.print()}>
            Print
          </button>
        </div>
      ) : null}
    </aside>
  )
}

function Bought({ line, sign }: { line: ShoppingLine; sign: string }) {
  const cut = line.packs.find((p) => p.buy && p.cut)
  return (
    <li className="hair py-3">
      <p className="m-0 flex justify-between gap-4">
        <strong>{line.name}</strong>
        <span className="num">{money(line.cost, sign)}</span>
      </p>
      <p className="m-0">{line.says}</p>
      {line.cheapest_unit ? <p className="m-0 text-quiet">{unitPrices(line, sign)}</p> : null}
      {line.waste != null && line.waste > 0.005 ? <p className="m-0 text-quiet">{Math.round(line.waste * 100)} % of it is offcut.</p> : null}
      {cut?.cut ? <CutSheet pack={cut} /> : null}
    </li>
  )
}

/** Prices for as many pieces, grams or millilitres as make each of them worth a coin: a bottle's millilitre alone would cost 0.00. */
function unitPrices(line: ShoppingLine, sign: string): string {
  const least = Math.min(...line.packs.flatMap((p) => (p.unit_price ? [p.unit_price] : [])))
  const per = [1, 10, 100, 1000].find((n) => n * least >= 0.095) ?? 1000
  const name = per === 1 ? (line.unit === 'pieces' ? 'the piece' : `1 ${line.unit}`) : `${per} ${line.unit}`
  return `By ${name}: ${line.packs.map((p) => `${p.name} ${money(p.unit_price == null ? null : p.unit_price * per, sign)}`).join(', ')}.`
}

/** Where the pieces are cut on one sheet. */
function CutSheet({ pack }: { pack: NonNullable<ShoppingLine['packs'][number]> }) {
  const places = pack.cut?.places ?? []
  const [wide, high] = [pack.cut?.width ?? 0, pack.cut?.height ?? 0]
  if (!places.length || places.length > 400) return null
  return (
    <figure className="m-0 mt-2">
      <svg
        viewBox={`-2 -2 ${wide + 4} ${high + 4}`}
        className="max-h-40 w-full"
        role="img"
        aria-label={`${counted(places.length, 'piece')} cut from ${pack.holds}`}
        preserveAspectRatio="xMinYMin"
      >
        <rect width={wide} height={high} fill="none" stroke="var(--ink)" strokeWidth={Math.max(wide, high) / 120} />
        {places.map((p) => (
          <rect
            key={`${p.x},${p.y}`}
            x={p.x}
            y={p.y}
            width={p.width}
            height={p.height}
            fill="var(--tape)"
            fillOpacity={0.35}
            stroke="var(--ink)"
            strokeWidth={Math.max(wide, high) / 250}
          />
        ))}
      </svg>
      <figcaption className="text-[0.92rem] text-quiet">
        {places.length} pieces from one {pack.name} ({pack.holds})
      </figcaption>
    </figure>
  )
}
