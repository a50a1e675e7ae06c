/** A picture to scan that opens an address. */
export function Scan({ of, opens, className }: { of: { picture: string; picture_size: number }; opens: string; className: string }) {
  return (
    <svg
      viewBox={`0 0 ${of.picture_size} ${of.picture_size}`}
      className={`bg-white ${className}`}
      role="img"
      aria-label={`Scan to open ${opens}`}
      shapeRendering="crispEdges"
    >
      <path d={of.picture} fill="#18211f" />
    </svg>
  )
}
