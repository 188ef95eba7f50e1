/** A value of a chart at one place of its axis. */
export interface Fact {
  name: string;
  value: string;
}

/** What a chart shows at one place: the tooltip, the keyboard, screen readers and files tell it alike. */
export interface Place {
  /** The place in words: a time, a class of durations. */
  at: string;
  /** Where it stands on the axis; by its index where that is not told. */
  x?: number;
  facts: Fact[];
}

const SIGNS: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
/** What comes from outside is text in a tooltip too. */
const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => SIGNS[sign]);

/** A place as the markup of a tooltip. */
export const placeMarkup = ({ at, facts }: Place): string =>
  `${escaped(at)}<table>${facts
    .map(
      ({ name, value }) =>
        `<tr><td>${escaped(name)}</td><td style="text-align:right;padding-left:14px;font-family:Source Code Pro Variable">${escaped(value)}</td></tr>`
    )
    .join('')}</table>`;

/** A place as a sentence. */
export const placeWords = ({ at, facts }: Place): string =>
  `${at}: ${facts.map(({ name, value }) => `${name} ${value}`).join(', ')}.`;
