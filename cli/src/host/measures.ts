/** What one counter says at one moment, under its name in OpenTelemetry's semantic conventions; names of our own begin with `tromix.`. */
export interface Measure {
  name: string;
  unit: string;
  /** Only grows while the sender is the same. */
  grows: boolean;
  value: number;
  attributes: Readonly<Record<string, string>>;
}

/** What is told of one host or one process. */
export interface Told {
  resource: Readonly<Record<string, string | number>>;
  /** Since when what grows has grown, epoch milliseconds; 0 where that is not known. */
  sinceMs: number;
  measures: Measure[];
}

/** Something that only grows: its rate is what is looked at. */
export const growing = (
  name: string,
  unit: string,
  value: number,
  attributes: Measure['attributes'] = {}
): Measure => ({ name, unit, grows: true, value, attributes });

/** Something that stands where it stands. */
export const standing = (
  name: string,
  unit: string,
  value: number,
  attributes: Measure['attributes'] = {}
): Measure => ({ name, unit, grows: false, value, attributes });
