/** Clock times of a lesson: "09:10" and minutes after it. */
export const minutesOf = (clock: string): number => {
  const [h = 0, m = 0] = clock.split(/[:.]/).map(Number)
  return 60 * h + m
}
export const clockAt = (start: string, minutes: number): string => {
  const all = minutesOf(start) + Math.floor(minutes)
  return `${String(Math.floor(all / 60) % 24).padStart(2, '0')}:${String(all % 60).padStart(2, '0')}`
}
/** Minutes since the lesson began today, with parts; below zero before it. */
export const minutesSince = (start: string, now: Date): number => now.getHours() * 60 + now.getMinutes() + now.getSeconds() / 60 - minutesOf(start)
