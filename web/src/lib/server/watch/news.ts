/** What a browser shows of a watch that came on. */
export interface WatchNews {
  id: string;
  watchId: string;
  name: string;
  severity: string;
  sentence: string;
  onMinute: number;
}
