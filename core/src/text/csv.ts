/** A table as CSV (RFC 4180): fields quoted where they must be, lines ended by CRLF. A leading sign that a spreadsheet would run is set behind an apostrophe. */
export function toCsv(head: readonly string[], rows: readonly (readonly (string | number)[])[]): string {
  const field = (value: string | number): string => {
    const text = defused(value);
    return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  return [head, ...rows].map((row) => row.map(field).join(',')).join('\r\n') + '\r\n';
}

/** A leading sign that a spreadsheet would run is set behind an apostrophe; a number is a number. */
const defused = (value: string | number): string =>
  typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);

/** A table as tab-separated text for the clipboard, as safe as the file: tabs and line breaks within a field become spaces. */
export const toTsv = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  [head, ...rows]
    .map((row) => row.map((field) => defused(field).replace(/[\t\r\n]+/g, ' ')).join('\t'))
    .join('\n');
