/** A line of working, such as "mean = (4.1 + 4.2) ÷ 2", as a tree that can be drawn with its fractions and roots; null where it is a sentence. */
export type Node =
  | { is: 'text'; text: string }
  | { is: 'sign'; text: string }
  | { is: 'row'; of: Node[] }
  | { is: 'group'; of: Node }
  | { is: 'over'; top: Node; under: Node }
  | { is: 'root'; of: Node }
  | { is: 'squared'; of: Node }

// a division has blanks on both sides, so that the one in "m/s" stays part of its unit
const TOKENS = /( ÷ | \/ | × |·| \+ | − | ± |√|\(|\)²|\)|[^÷×·+±√()]+?(?= ÷ | \/ | × |·| \+ | − | ± |√|\(|\)|$))/y
const PLUS = new Set([' + ', ' − ', ' ± '])
const TIMES = new Set([' × ', '·'])
const DIVIDED = new Set([' ÷ ', ' / '])

function tokens(text: string): string[] | null {
  const found: string[] = []
  TOKENS.lastIndex = 0
  while (TOKENS.lastIndex < text.length) {
    const m = TOKENS.exec(text)
    if (!m?.[0]) return null
    if (m[0].trim()) found.push(m[0])
  }
  return found
}

class Parsing {
  private at = 0
  constructor(private readonly of: readonly string[]) {}
  private get now(): string | undefined {
    return this.of[this.at]
  }
  whole(): Node | null {
    const made = this.sum()
    return this.at === this.of.length ? made : null
  }
  private sum(): Node | null {
    const parts: Node[] = []
    for (;;) {
      const one = this.product()
      if (!one) return null
      parts.push(one)
      if (!this.now || !PLUS.has(this.now)) return parts.length === 1 ? one : { is: 'row', of: parts }
      parts.push({ is: 'sign', text: this.now.trim() })
      this.at += 1
    }
  }
  private product(): Node | null {
    let parts: Node[] = []
    for (;;) {
      const one = this.factor()
      if (!one) return null
      parts.push(one)
      while (this.now && DIVIDED.has(this.now)) {
        this.at += 1
        const under = this.factor()
        if (!under) return null
        parts = [{ is: 'over', top: bare(parts.length === 1 ? (parts[0] as Node) : { is: 'row', of: parts }), under: bare(under) }]
      }
      if (!this.now || !TIMES.has(this.now)) return parts.length === 1 ? (parts[0] as Node) : { is: 'row', of: parts }
      parts.push({ is: 'sign', text: this.now.trim() })
      this.at += 1
    }
  }
  private factor(): Node | null {
    const token = this.now
    if (token === undefined || PLUS.has(token) || TIMES.has(token) || DIVIDED.has(token) || token.startsWith(')')) return null
    this.at += 1
    if (token === '√') {
      const of = this.factor()
      return of && { is: 'root', of: bare(of) }
    }
    if (token !== '(') return { is: 'text', text: token.trim() }
    const inside = this.sum()
    const close = this.now
    if (!inside || !close?.startsWith(')')) return null
    this.at += 1
    const group: Node = { is: 'group', of: inside }
    return close === ')²' ? { is: 'squared', of: group } : group
  }
}

/** Brackets that a fraction's bar or a root already stands for. */
const bare = (n: Node): Node => (n.is === 'group' ? n.of : n)

/** The sides of a line between its equals signs; null where the line is no formula. */
export function formula(line: string): Node[] | null {
  if (!line.includes('=') || !/[÷×√·]| \/ /.test(line) || /[.;:] /.test(line) || /\bp = /.test(line)) return null
  const sides = line
    .replace(/^= /, '')
    .split(' = ')
    .map((side) => {
      const list = tokens(side)
      return list ? new Parsing(list).whole() : null
    })
  return sides.every((s): s is Node => s !== null) ? sides : null
}
