/** Four characters a token is a stated rule of thumb; an answer stays under 4,000 tokens. */
export const MAX_CHARACTERS = 15_000;

/** A question that cannot be answered as it was asked: the words say what to ask instead. */
export class AskInstead extends Error {}

/** Lines of an answer, cut where an assistant would drown in them; what was cut, and how to get it, is said. */
export function answerText(lines: readonly string[]): string {
  const text = lines.join('\n');
  if (text.length <= MAX_CHARACTERS) return text;
  const cut = text.slice(0, MAX_CHARACTERS);
  return `${cut.slice(0, cut.lastIndexOf('\n'))}\n… cut here: narrow the question, or open the link.`;
}

/** One line of text from outside: no line breaks, not endless. */
export const oneLine = (text: string, most = 300): string => {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > most ? `${line.slice(0, most - 1)}…` : line;
};

export const PER_PAGE = 20;

/** One page of a list, and what to say of the rest. @param page from 1 on */
export function paged<T>(all: readonly T[], page: number): { rows: readonly T[]; note: string } {
  const from = (page - 1) * PER_PAGE;
  const rows = all.slice(from, from + PER_PAGE);
  const pages = Math.max(1, Math.ceil(all.length / PER_PAGE));
  if (all.length > 0 && rows.length === 0)
    throw new AskInstead(`There are ${pages} pages. Ask for one of them with "page".`);
  return {
    rows,
    note: pages > 1 ? `Page ${page} of ${pages} (${all.length} in all). Ask with "page" for another.` : ''
  };
}
