/** Mean and standard deviation of a sample. */
export interface Moments {
  /** NaN for no values. */
  mean: number;
  /** With n − 1; NaN for fewer than two values. */
  deviation: number;
}

/** Mean and deviation in one pass, without losing digits. Source: B. P. Welford (1962), from memory. */
export function momentsOf(values: ArrayLike<number>): Moments {
  let mean = 0;
  let squares = 0;
  for (let i = 0; i < values.length; i++) {
    const delta = values[i] - mean;
    mean += delta / (i + 1);
    squares += delta * (values[i] - mean);
  }
  return {
    mean: values.length > 0 ? mean : NaN,
    deviation: values.length > 1 ? Math.sqrt(squares / (values.length - 1)) : NaN
  };
}
