import { describe, expect, it } from 'vitest'
import { formula, type Node } from './formula'

/** A tree as text again, fractions in braces. */
const said = (n: Node): string =>
  n.is === 'text' || n.is === 'sign'
    ? n.text
    : n.is === 'row'
      ? n.of.map(said).join(' ')
      : n.is === 'group'
        ? `(${said(n.of)})`
        : n.is === 'over'
          ? `{${said(n.top)} | ${said(n.under)}}`
          : n.is === 'root'
            ? `root{${said(n.of)}}`
            : `${said(n.of)}²`
const sides = (line: string) => formula(line)?.map(said) ?? null

describe('a line of working as a formula', () => {
  it('draws a mean with its bar', () => {
    expect(sides('= (4.1 + 4.2 + 4.3) ÷ 3')).toEqual(['{4.1 + 4.2 + 4.3 | 3}'])
    expect(sides('mean = sum of the kept readings ÷ how many')).toEqual(['mean', '{sum of the kept readings | how many}'])
    expect(sides('= 12.6 ÷ 3 = 4.2 m')).toEqual(['{12.6 | 3}', '4.2 m'])
  })
  it('draws roots, and takes the whole product over the bar', () => {
    expect(sides('95 % interval of the mean = mean ± t × SD ÷ √n = 4.2 ± 4.3 × 0.1 ÷ √3 = 3.95 to 4.45 m')).toEqual([
      '95 % interval of the mean',
      'mean ± {t × SD | root{n}}',
      '4.2 ± {4.3 × 0.1 | root{3}}',
      '3.95 to 4.45 m',
    ])
    expect(sides('SD = √(sum of squares ÷ (n − 1)) = √(0.02 ÷ 2) = 0.1 m')).toEqual(['SD', 'root{{sum of squares | n − 1}}', 'root{{0.02 | 2}}', '0.1 m'])
  })
  it('leaves the division of a unit in its unit', () => {
    expect(sides('drag = 2·0.06 kg·9.8 m/s² / (1.2 kg/m³·0.16 m²·(2.1 m/s)²) = 1.3')).toEqual([
      'drag',
      '{2 · 0.06 kg · 9.8 m/s² | 1.2 kg/m³ · 0.16 m² · (2.1 m/s)²}',
      '1.3',
    ])
  })
  it('leaves sentences and what does not close as they are', () => {
    for (const line of [
      'One trial shows no spread.',
      'Shuffle: dealing the 6 readings anew gives it in 1 of 20 (p = 0.05).',
      'a = (b ÷ c',
      '2 void trials left out.',
      'difference = mean at 6 − mean at 4',
    ])
      expect(sides(line)).toBeNull()
  })
})
