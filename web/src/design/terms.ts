/** Words of ours, and of the trade, that a reviewer may not know; each explained in a sentence. */
export const TERMS = {
  docket: "The passes that are still to be run, in the order of work, system by system.",
  bench:
    "The program on a machine under test that takes passes from the docket, runs them and sends what it recorded.",
  seal: "The letter, shape and ink of a configuration; the baseline's wears a ring.",
  lens: "One way to look at the whole matrix: progress, figures, versus the baseline, limits.",
  aspect: "One thing in which configurations can differ: a part, a setting, the driver, the room.",
  factor: "What the review varies on purpose; everything else should be the same.",
  margin: "The smallest difference that matters to the question. Less than that is level.",
  level: "Neither ahead nor behind: the whole interval lies within the margin.",
  undecided: "The interval reaches over the edge of the margin: more passes would settle it.",
  "held rate": "A frame rate that a frame cap or the display holds; it shows the cap and not the machine.",
  "1 % low":
    "The frame rate of the slowest hundredth of the frames, by the definition that the brief chooses. Low against the average means stutter.",
  "thin tail": "Too few frames for a low to rest on: under ten in the slowest part.",
  "pooled low": "A low over the frames of all passes together, where single passes have a thin tail.",
  evenness: "The 1 % low over the average. Near 1 the frame pacing is even; far under 1 it stutters.",
  hitch: "A frame that takes twice as long as those around it, and 4 ms longer: a stutter that can be felt.",
  outlier: "A pass that lies farther from its cell's median than the noise of the test explains.",
  drift: "The baseline, measured again at the end, is not what it was: the whole session has moved.",
  CL: "The first timing of memory, in clocks: lower is quicker at the same speed.",
} as const;

export type TermName = keyof typeof TERMS;
