export interface ReadOptions {
  /** References from weak, soft and phantom reference objects keep alive too. */
  weakKeep?: boolean;
  /** Most repeated strings listed. */
  mostStrings?: number;
  /** Called where much memory has just become free. */
  reclaim?: () => void;
  /** Told the part that is done, 0 to 1; may throw to give up. */
  onprogress?: (part: number) => void;
}
