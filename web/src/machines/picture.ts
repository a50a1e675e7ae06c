/** A drawing of the page as a file of its own: what the page's style gives by class and variable is written into it, its letters too. */

const WRITTEN = ['fill', 'stroke', 'stroke-width', 'stroke-dasharray', 'font-family', 'font-size', 'font-weight', 'font-stretch', 'opacity', 'text-anchor']

/** The letters that a drawing uses, as rules with the fonts inside, so that it looks alike without the page. */
async function letters(families: ReadonlySet<string>): Promise<string> {
  const rules: string[] = []
  for (const sheet of [...document.styleSheets])
    for (const rule of [...sheet.cssRules])
      if (rule instanceof CSSFontFaceRule) {
        const family = rule.style.getPropertyValue('font-family').replaceAll('"', '').replaceAll("'", '')
        if (!families.has(family) || !/latin/.test(rule.cssText) || /latin-ext/.test(rule.cssText) || /italic/.test(rule.style.fontStyle)) continue
        const at = /url\("?([^")]+)"?\)/.exec(rule.style.getPropertyValue('src') || rule.cssText)?.[1]
        if (!at) continue
        const bytes = await (await fetch(new URL(at, sheet.href ?? document.baseURI))).blob()
        const inside = await new Promise<string>((done, fail) => {
          const reader = new FileReader()
          reader.onload = () => done(String(reader.result))
          reader.onerror = () => fail(reader.error)
          reader.readAsDataURL(bytes)
        })
        rules.push(rule.cssText.replace(/src:[^;]+;/, `src: url("${inside}") format("woff2");`))
      }
  return rules.join('\n')
}

/** The drawing as SVG text, on the page's ground. */
export async function svgOf(svg: SVGSVGElement, title: string): Promise<string> {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const [from, to] = [[...svg.querySelectorAll<SVGElement>('*')], [...copy.querySelectorAll<SVGElement>('*')]]
  const families = new Set<string>()
  from.forEach((el, i) => {
    const seen = getComputedStyle(el)
    const text = el instanceof SVGTextElement || el instanceof SVGTSpanElement
    for (const name of WRITTEN) {
      if (name.startsWith('font') && !text) continue
      const value = seen.getPropertyValue(name)
      if (value) to[i]?.style.setProperty(name, value)
    }
    to[i]?.removeAttribute('class')
    if (text) families.add(seen.fontFamily.split(',')[0]?.replaceAll('"', '').trim() ?? '')
  })
  const { width, height } = svg.getBoundingClientRect()
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('viewBox', `0 0 ${width} ${height}`)
  const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect')
  for (const [k, v] of Object.entries({ width: String(width), height: String(height), fill: getComputedStyle(svg).getPropertyValue('--floor') }))
    ground.setAttribute(k, v)
  const name = document.createElementNS('http://www.w3.org/2000/svg', 'title')
  name.textContent = title
  const style = document.createElementNS('http://www.w3.org/2000/svg', 'style')
  style.textContent = await letters(families)
  copy.prepend(name, style, ground)
  return new XMLSerializer().serializeToString(copy)
}

/** The drawing as a PNG so many pixels wide. */
export async function pngOf(svg: SVGSVGElement, title: string, width: number): Promise<Blob> {
  const text = await svgOf(svg, title)
  const box = svg.getBoundingClientRect()
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width
  canvas.height = Math.round((width * box.height) / box.width)
  const pen = canvas.getContext('2d')
  if (!pen) throw new Error('This browser cannot draw the picture. Save it as SVG.')
  pen.drawImage(image, 0, 0, canvas.width, canvas.height)
  return await new Promise((done, fail) =>
    canvas.toBlob((blob) => (blob ? done(blob) : fail(new Error('This browser cannot write the picture. Save it as SVG.'))), 'image/png'),
  )
}

/** Hand a file to whoever sits at the screen. */
export function handOver(blob: Blob, name: string): void {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(blob)
  a.download = name
  a.click()
  setTimeout(() => URL.revokeObjectURL(a.href), 30_000)
}
