// Made by bin/types from bendro/core/planning/choices.py and judgement/audit.py; change it there.
export const CHOICES = {
  "order": [
    [
      "blocks",
      "shuffled in blocks (advised)",
      "Each block has every level once, shuffled: tiredness and slackening bands fall on all levels alike."
    ],
    [
      "listed",
      "as listed",
      "Level after level: order and level cannot be told apart afterwards."
    ],
    [
      "random",
      "fully random",
      "All trials shuffled together; by bad luck one level can still come mostly early."
    ],
    [
      "unknown",
      "not told",
      "The table that the trials came from does not tell in which order they were run, so nothing is judged by it."
    ]
  ],
  "evidence": [
    [
      "shuffle",
      "chance alone would rarely produce this (advised)",
      "How often dealing the readings anew among the levels gives a difference as large."
    ],
    [
      "interval",
      "the 95 % interval excludes zero",
      "The usual interval of a difference or slope."
    ],
    [
      "ranges",
      "the ranges do not overlap",
      "Simple and strict; it pays no regard to how many trials there were."
    ]
  ],
  "result": [
    [
      "mean",
      "the mean (advised)",
      "Every kept trial counts alike. The mean, the median, the best and the total are all shown."
    ],
    [
      "median",
      "the median",
      "One odd reading moves it little; it wants five trials or more."
    ],
    [
      "best",
      "the best",
      "Contests like it. It grows with the number of tries, so everyone needs the same number."
    ],
    [
      "total",
      "the total",
      "For points over a fixed number of tries."
    ]
  ],
  "rank": [
    [
      "result",
      "the result of each device (advised)",
      "Devices that cannot be separated share a place."
    ],
    [
      "rung_lightest",
      "the highest rung, then the lightest",
      "It needs an outcome for every drop, and the mass of each device on its sheet."
    ],
    [
      "cheapest",
      "the cheapest that survived",
      "It needs an outcome for every drop, and what each device is made of on its sheet."
    ]
  ],
  "doubt": [
    [
      "auto",
      "by reading level (advised)",
      "Half the range at the first level; the 95 % interval of the mean above it."
    ],
    [
      "half_range",
      "half the range",
      "Largest less smallest, halved: done by hand in a moment."
    ],
    [
      "sd",
      "the standard deviation",
      "How far single trials scatter."
    ],
    [
      "ci95",
      "the 95 % interval of the mean",
      "How well the mean itself is known."
    ]
  ],
  "odd": [
    [
      "flag",
      "keep it, and ask about it (advised)",
      "A reading that Grubbs’ test finds odd is pointed out: was a fault seen? It counts until someone names one."
    ],
    [
      "quiet",
      "keep it and say nothing",
      "Never tested. It counts unless the trial is made void with a fault."
    ]
  ],
  "timers_by": [
    [
      "auto",
      "median of three, mean of two (advised)",
      "The median bears one slow thumb."
    ],
    [
      "mean",
      "the mean",
      "Every thumb counts alike."
    ],
    [
      "median",
      "the median",
      "The middle one of three; of two it is the mean."
    ]
  ],
  "compared": [
    [
      "timed",
      "one at a time, measured (advised)",
      "Gives sizes, not only an order."
    ],
    [
      "side_by_side",
      "side by side",
      "Each block is a heat: all levels released together from one height, so the air of the day is shared. Release them at one call."
    ]
  ],
  "within": [
    [
      "",
      "all together (advised)",
      "Every trial counts at its level, whichever block or group it came from."
    ],
    [
      "block",
      "within each block",
      "Each block is compared with itself, so that a day or a draught falls on all levels alike."
    ],
    [
      "group",
      "within each group",
      "Each group is compared with itself, so that one strong group does not favour a level. Every group needs every level."
    ],
    [
      "person",
      "within each person",
      "Each person is compared with themselves. It needs who released every trial."
    ],
    [
      "device",
      "within each device",
      "Each device is compared with itself. It needs the device of every trial."
    ]
  ],
  "reading_level": [
    [
      "first",
      "first (ages 7 to 10)",
      ""
    ],
    [
      "middle",
      "middle (ages 11 to 14)",
      ""
    ],
    [
      "senior",
      "senior (ages 15 to 18)",
      ""
    ]
  ],
  "study_kind": [
    [
      "fair_test",
      "Fair test",
      "one thing is changed, everything else is held"
    ],
    [
      "design_rounds",
      "Design rounds",
      "one device is made better, version by version"
    ],
    [
      "contest",
      "Contest",
      "many devices under one rule"
    ]
  ],
  "survival": [
    [
      "",
      "not agreed yet",
      "Teachers differ on a hairline crack, so there is no default."
    ],
    [
      "untouched",
      "untouched only",
      "Not a crack, not a hairline."
    ],
    [
      "hairline",
      "a hairline crack is allowed",
      "Anything wider is a fail."
    ],
    [
      "inside",
      "still inside and whole",
      "The payload has not left the device."
    ]
  ],
  "drop.plan": [
    [
      "",
      "nothing is dropped",
      ""
    ],
    [
      "ladder",
      "a ladder until it fails",
      "Each rung higher than the last; the highest rung survived is the reading."
    ],
    [
      "rungs",
      "fixed rungs for all",
      "Every device goes through every rung."
    ],
    [
      "one_height",
      "one height",
      "Everything from the same height."
    ]
  ],
  "drop.payload": [
    [
      "",
      "not agreed yet",
      "Damage adds up in a payload that is used again."
    ],
    [
      "fresh",
      "a fresh payload at every drop",
      "Each drop stands for itself."
    ],
    [
      "reused",
      "one payload for all rungs",
      "Damage adds up: a late failure may belong to an earlier drop."
    ]
  ],
  "asked_by": [
    [
      "pupils",
      "learners choose from the wall",
      ""
    ],
    [
      "teacher",
      "the teacher sets it",
      ""
    ]
  ],
  "measures.scale": [
    [
      "quantity",
      "a number with a unit",
      ""
    ],
    [
      "count",
      "a count",
      ""
    ],
    [
      "outcome",
      "an outcome in words",
      ""
    ],
    [
      "zone",
      "zones with points",
      ""
    ],
    [
      "order",
      "a place in a heat",
      ""
    ],
    [
      "behaviour",
      "behaviours seen",
      ""
    ]
  ],
  "materials.form": [
    [
      "count",
      "pieces",
      ""
    ],
    [
      "length",
      "cut lengths",
      ""
    ],
    [
      "sheet",
      "cut from sheets",
      ""
    ],
    [
      "mass",
      "a mass",
      ""
    ],
    [
      "volume",
      "a volume",
      ""
    ]
  ],
  "derived.source": [
    [
      "reading",
      "a reading",
      ""
    ],
    [
      "setting",
      "the setting",
      ""
    ],
    [
      "held",
      "a thing held",
      ""
    ],
    [
      "version",
      "the version",
      ""
    ],
    [
      "typed",
      "typed here",
      ""
    ]
  ],
  "expect": [
    [
      "rises",
      "it rises",
      ""
    ],
    [
      "falls",
      "it falls",
      ""
    ],
    [
      "peak",
      "a best in the middle",
      ""
    ],
    [
      "none",
      "no effect",
      ""
    ]
  ]
} as const
export const CHECKED = {
  "single_trial": "a level with one trial",
  "few_repeats": "too few repeats",
  "unequal_repeats": "unequal repeats",
  "voids_pile_up": "voids at one level",
  "all_estimated": "readings all estimated",
  "censored": "readings off the tape",
  "drift_with_order": "drift with the order of trials",
  "more_than_one_change": "two things changed at once",
  "control_not_held": "things meant to stay the same",
  "person_mixed_with_level": "one person to a level",
  "order_mixed_with_level": "one level after the other",
  "estimated_mixed_with_measured": "estimates among measured readings",
  "resolution_too_coarse": "too coarse a tool",
  "reaction_dominates": "a thumb’s reaction",
  "payload_mixed": "different payloads",
  "payload_reused": "payloads used again",
  "spread_unequal": "unequal spreads",
  "odd_reading": "odd readings",
  "prediction_missing": "a missing prediction",
  "measuring_rule_missing": "a missing measuring rule",
  "instrument_not_reset": "meters not reset",
  "column_explains_scatter": "a column that explains the scatter",
  "judging_changed": "a way of judging chosen afterwards",
  "timers_apart": "timers that do not agree",
  "not_planned": "a comparison that was not planned"
} as const
export const UNITS = [["length", "mm"], ["length", "cm"], ["length", "m"], ["length", "in"], ["length", "ft"], ["time", "s"], ["time", "min"], ["mass", "g"], ["mass", "kg"], ["mass", "oz"], ["angle", "°"], ["speed", "m/s"], ["count", "count"], ["voltage", "V"], ["area", "cm²"], ["volume", "ml"], ["pressure", "bar"], ["pressure", "psi"]] as const
