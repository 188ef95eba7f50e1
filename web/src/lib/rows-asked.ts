/** How many rows of a long list are read, as it stands in the URL: a list that is scrolled to its end asks for more. */
const EACH = 1000;
/** Lists that are longer are narrowed, not read. */
const MOST = 20_000;

export function rowsAsked(query: URLSearchParams): number {
  const asked = Number(query.get('rows'));
  return Number.isInteger(asked) && asked >= EACH && asked <= MOST ? asked : EACH;
}

/** The address of the same list with more rows; null where it is as long as lists get. */
export function moreRows(url: URL): string | null {
  const rows = rowsAsked(url.searchParams) + EACH;
  if (rows > MOST) return null;
  const query = new URLSearchParams(url.searchParams);
  query.set('rows', String(rows));
  return `${url.pathname}?${query}`;
}
