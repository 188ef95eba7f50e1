import type { Case, Entry, Pin } from './case';

/** A part of a brief. Text from outside is text, but for notes, which are Markdown. */
export type Block =
  | { kind: 'text'; text: string }
  | { kind: 'markdown'; source: string }
  | { kind: 'figures'; rows: { name: string; value: string }[] }
  | { kind: 'code'; caption: string; line: number; lines: { number: number; text: string }[] }
  | { kind: 'verbatim'; text: string }
  | { kind: 'picture'; svg: string; caption: string }
  | { kind: 'link'; text: string; href: string }
  | { kind: 'list'; items: string[] };

export interface Section {
  title: string;
  blocks: Block[];
}

/** What somebody needs who does not have this tool. */
export interface Brief {
  title: string;
  /** Where it comes from, and of when it is. */
  about: string;
  sections: Section[];
}

export interface BriefOptions {
  /** `short` fits on a page: what has a role, without pictures and long figures. */
  length: 'short' | 'full';
  /** Where the application answers, before the addresses of views; '' leaves links out. */
  origin: string;
  /** When it is written, epoch milliseconds. */
  nowMs: number;
}

const MOST_FIGURES = { short: 6, full: 60 };

/** The brief of a case: the question, the chain of evidence in its order, how it stands. */
export function briefOfCase(one: Case, options: BriefOptions): Brief {
  const entries =
    options.length === 'full'
      ? one.entries
      : one.entries.filter(({ pin }) => pin === null || pin.role !== '');
  return {
    title: one.question,
    about: aboutOf([`State: ${one.state}`, `opened ${day(one.createdAtUs / 1000)}`], options),
    sections: entries.map((entry) => sectionOf(entry, options))
  };
}

/** The brief of one thing, straight from the view it was looked at in. */
export const briefOfPin = (title: string, pin: Pin, options: BriefOptions): Brief => ({
  title,
  about: aboutOf([pin.kind], options),
  sections: [{ title: pin.sentence, blocks: blocksOf(pin, options) }]
});

const aboutOf = (facts: string[], { nowMs }: BriefOptions): string =>
  `${facts.join(', ')}. Written ${day(nowMs)}.`;

/** UTC: who reads it may be anywhere. */
const day = (ms: number): string => `${new Date(ms).toISOString().slice(0, 16).replace('T', ' ')} UTC`;

function sectionOf({ title, text, pin, atUs }: Entry, options: BriefOptions): Section {
  const blocks: Block[] = [];
  if (pin) blocks.push({ kind: 'text', text: pin.sentence });
  if (text) blocks.push({ kind: 'markdown', source: text });
  if (pin) blocks.push(...blocksOf(pin, options));
  return { title: `${title || (pin ? pin.kind : 'Note')} (${day(atUs / 1000)})`, blocks };
}

function blocksOf(pin: Pin, { length, origin }: BriefOptions): Block[] {
  const blocks: Block[] = [];
  if (pin.figures.length > 0)
    blocks.push({ kind: 'figures', rows: pin.figures.slice(0, MOST_FIGURES[length]) });
  if (pin.code)
    blocks.push({
      kind: 'code',
      caption: `${pin.code.file}${pin.code.release ? `, as of ${pin.code.release}` : ''}`,
      line: pin.code.line,
      lines: pin.code.lines
    });
  if (pin.verbatim) blocks.push({ kind: 'verbatim', text: pin.verbatim });
  if (pin.picture && length === 'full')
    blocks.push({ kind: 'picture', svg: pin.picture, caption: pin.sentence });
  if (origin) blocks.push({ kind: 'link', text: 'Open it in Tromix', href: `${origin}${pin.address}` });
  return blocks;
}

/** What the file of a brief is called, without its ending: the letters and digits of its title. */
export const briefFileName = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 60) || 'brief';
