// Made by bin/types from bendro/core/seeing, bendro/core/measuring/taking.py and bendro/instruments/made.py; change it there.
export const LOOKED = [["fall", "How it fell"], ["launch", "How it was launched"], ["slide", "How it slowed down"], ["impact", "How it was stopped"], ["spin", "How it turned"]] as const
export const LIKELY: Readonly<Record<string, (typeof LOOKED)[number][0]>> = {"launcher": "launch", "rocket": "launch", "glider": "launch", "vehicle": "slide", "spinner": "spin", "turbine": "spin", "protector": "impact"}
export const MADE = [["roll", "A sail cart rolls along 4 m of tape.", "slide", 30.0], ["drop", "A ball is let fall from 2 m.", "fall", 60.0], ["heat", "Three canopies are let go together from 2 m.", "fall", 30.0], ["spin", "A rotor of three blades turns, with a mark on one.", "spin", 60.0], ["impact", "A ball falls into a cushion, seen 240 times a second.", "impact", 240.0]] as const
export const THUMB_S = 0.1
