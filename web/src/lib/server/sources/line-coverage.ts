/**
 * How often tests ran a line, by a tracefile of lcov (`SF:` names a file, `DA:` a line and how often it ran; geninfo(1), "Files").
 * @param path of the file, relative to its folder
 * @returns null where the tracefile does not tell of it
 */
export function timesTested(lcov: string, path: string, line: number): number | null {
  const wanted = `/${path}`;
  for (const record of lcov.split(/^end_of_record\s*$/m)) {
    const file = /^SF:(.+)$/m.exec(record)?.[1].trim().replaceAll('\\', '/');
    // Tracefiles name files by the folder the tests ran in, or by where they lay there.
    if (!file || !(`/${file}`.endsWith(wanted) || wanted.endsWith(`/${file}`))) continue;
    const times = new RegExp(`^DA:${line},(\\d+)`, 'm').exec(record)?.[1];
    if (times !== undefined) return Number(times);
  }
  return null;
}
