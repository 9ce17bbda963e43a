/** The screens, each loaded when it is opened. */
export const screens = {
  new: () => import("./stages/scout/OutingForm").then((m) => ({ default: m.OutingForm })),
  scout: () => import("./stages/scout/Scout"),
  cut: () => import("./stages/cut/Cut"),
  raise: () => import("./stages/raise/Raise"),
  sweep: () => import("./stages/sweep/Sweep"),
  work: () => import("./stages/work/Work"),
  weigh: () => import("./stages/weigh/Weigh"),
  record: () => import("./stages/record/Record"),
  bag: () => import("./stages/bag/Bag"),
  bench: () => import("./stages/bench/Bench"),
  practice: () => import("./stages/practice/Practice"),
  settings: () => import("./stages/settings/Settings"),
};
