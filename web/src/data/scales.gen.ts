// Made by bin/types from bendro/core/measuring/scales; change it there.
export const SCALES = {
  quantity: {"shape": "number", "number": true, "worded": false, "counted": false, "whole": false, "scored": false, "survives": false, "answers": true},
  count: {"shape": "number", "number": true, "worded": false, "counted": true, "whole": true, "scored": false, "survives": false, "answers": true},
  outcome: {"shape": "survival", "number": false, "worded": true, "counted": false, "whole": false, "scored": false, "survives": true, "answers": true},
  zone: {"shape": "number", "number": true, "worded": false, "counted": false, "whole": true, "scored": true, "survives": false, "answers": true},
  order: {"shape": "places", "number": false, "worded": false, "counted": false, "whole": true, "scored": false, "survives": false, "answers": true},
  behaviour: {"shape": "behaviour", "number": false, "worded": true, "counted": false, "whole": false, "scored": false, "survives": false, "answers": false},
} as const
