/** The number with which a text such as "4 m" begins; null where it begins with none. */
const leading = (text: string): number | null => {
  const found = /^\s*(\d+(?:[.,]\d+)?)/.exec(text)?.[1]
  return found === undefined ? null : Number(found.replace(',', '.'))
}

/** A tape laid over a picture between two touched places: its upper edge goes through both, its marks stand at honest steps. Places in points of the picture
 *  as it is shown; says: what the tape shows at each, as typed. */
export function TapeOver({ a, b, says }: { a: { x: number; y: number }; b: { x: number; y: number }; says: [string, string] }) {
  const long = Math.hypot(b.x - a.x, b.y - a.y)
  if (long < 8) return null
  const [from, to] = [leading(says[0]), leading(says[1])]
  const unit = /[^\d.,\s-]+$/.exec(says[1].trim())?.[0] ?? 'm'
  const span = from !== null && to !== null ? to - from : 0
  // ticks no closer than six points
  const step = span ? ([0.01, 0.05, 0.1, 0.5, 1, 5, 10, 50].find((s) => (s / Math.abs(span)) * long >= 6) ?? Math.abs(span)) : 0
  const ticks: { at: number; value: number; major: boolean }[] = []
  if (span && from !== null) {
    const [low, high] = [Math.min(from, from + span), Math.max(from, from + span)]
    const every = ([0.1, 0.5, 1, 5, 10, 50, 100].find((s) => s > step && (s / Math.abs(span)) * long >= 34) ?? Math.abs(span)) || 1
    for (let n = Math.ceil(low / step - 1e-6); n * step <= high + 1e-9; n += 1) {
      const value = n * step
      ticks.push({ at: ((value - from) / span) * long, value, major: Math.abs(value / every - Math.round(value / every)) < 1e-6 })
    }
  }
  const turn = (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI
  return (
    <g transform={`translate(${a.x} ${a.y}) rotate(${turn})`} data-laid-tape pointerEvents="none">
      <rect x={0} y={0} width={long} height={30} fill="var(--tape)" opacity={0.92} />
      <rect x={0} y={27} width={long} height={3} fill="var(--tape-edge)" />
      <rect x={-8} y={-5} width={8} height={40} fill="#18211f" />
      <rect x={long} y={0} width={30} height={30} fill="#18211f" />
      <text x={long + 15} y={20} textAnchor="middle" fontSize={14} className="big" fill="var(--tape)" style={{ fontFamily: 'var(--font-big)' }}>
        {unit}
      </text>
      {ticks.map((t) => (
        <g key={t.value}>
          <rect x={t.at - 0.75} y={0} width={1.5} height={t.major ? 17 : 8} fill="#18211f" />
          {t.major ? (
            <text x={t.at + 4} y={25} fontSize={13} fill="#18211f" style={{ fontFamily: 'var(--font-big)', fontWeight: 700 }}>
              {Number(t.value.toFixed(3))}
            </text>
          ) : null}
        </g>
      ))}
    </g>
  )
}
