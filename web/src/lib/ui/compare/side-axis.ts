/** Pixels from the edges of a picture of both sides to the ends of its time axis. */
export const AXIS = { left: 66, right: 18 };
