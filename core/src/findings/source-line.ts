/** The text of a source line as it is now; null where it is not known. */
export type SourceLine = (file: string, line: number) => string | null;
