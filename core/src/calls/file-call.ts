/** A group of file calls, as it is stored. */
export interface FileGroup {
  fingerprint: string;
  /** What it does: an operation, or what its span is called. */
  verb: string;
}

/** To which files a group's calls go: their path with what differs from call to call taken out. */
export const filePattern = ({ fingerprint, verb }: FileGroup): string => fingerprint.slice(verb.length + 1);

/** Operations that open the file themselves: those on a whole file by its path. */
const OPENS =
  /(?:^|[\s.:/])(?:f?open|create|(?:read|write|append|copy)_?(?:file|alltext|allbytes|alllines)|slurp|spit)(?:sync|async)?$/i;

/** Whether each call of a group opens a file (common practice: names of runtimes' functions for files). */
export const opensFile = ({ verb }: FileGroup): boolean => OPENS.test(verb);
