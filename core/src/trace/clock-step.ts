/** Some senders start and end spans at whole milliseconds: an overlap or overhang of no more is none. */
export const CLOCK_STEP_NS = 1e6;
