import { local } from '../data/keep'
export type Theme = 'day' | 'sun' | 'hall'
export const THEMES: readonly { id: Theme; label: string }[] = [
  { id: 'day', label: 'Day' },
  { id: 'sun', label: 'Sun' },
  { id: 'hall', label: 'Hall' },
]
export const savedTheme = (): Theme => THEMES.find((t) => t.id === local.get('theme'))?.id ?? 'day'
export function applyTheme(theme: Theme): void {
  document.documentElement.dataset.theme = theme
  local.set('theme', theme)
}
