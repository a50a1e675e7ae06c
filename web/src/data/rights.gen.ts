// Made by bin/types from bendro/core/rights.py; change it there.
export const MAY: Readonly<Record<string, readonly string[]>> = {
  teacher: ["build own", "enter", "lead", "look", "run", "run own", "school", "time"],
  colleague: ["enter", "look", "run", "run own", "time"],
  group: ["build own", "enter", "look", "run own", "time"],
  timer: ["enter", "look", "time"],
  wall: ["enter", "look"],
}
