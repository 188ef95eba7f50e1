import type { PinInput } from '@tromix/core/case/case';
import { absoluteLink } from '$lib/ui/shell/links';
import type { Offer } from './pins.svelte';
import { pictureOfRow } from './row-picture';

export type PinKind = PinInput['kind'];

const ROW = 'tr, [role="row"]';
const HEAD = 'th[scope="col"], thead th, [role="columnheader"]';
const CELL = 'td, th, [role="cell"], [role="gridcell"]';
/** Figures of a row that its sentence names; all of them stand below it. */
const SPOKEN = 3;

/**
 * A row of a table as something to be pinned: the words and figures that stand in it, each by the head of its column, and where it leads.
 * @param inside the row, or anything in it
 * @param href where it leads; '' for nowhere
 */
export function offerOfRow(inside: Element, kind: PinKind, href = ''): Offer {
  const row = inside.closest(ROW) ?? inside;
  const table = row.closest('table, [role="table"], [role="grid"]');
  const heads = [...(table?.querySelectorAll(HEAD) ?? [])].map(wordsOf);
  const figures = [...row.querySelectorAll(CELL)].flatMap((cell, i) => {
    const [name, value] = [heads[i] ?? '', wordsOf(cell)];
    return value && value !== '…' && name !== 'more'
      ? [{ name: name.slice(0, 200), value: value.slice(0, 900) }]
      : [];
  });
  const [first, ...rest] = figures;
  const about = table?.getAttribute('aria-label') ?? '';
  return {
    kind,
    title: (first?.value ?? about).slice(0, 200),
    sentence: [
      `${about ? `${about}: ` : ''}${first?.value ?? ''}`,
      ...rest.slice(0, SPOKEN).map(({ name, value }) => `${name} ${value}`)
    ].join(', '),
    figures: rest,
    picture: pictureOfRow(row),
    ...placeOf(href)
  };
}

/** What an address leads to: the view as it is now, and the evidence that it names. */
export function placeOf(href: string): Partial<Offer> {
  if (href === '') return {};
  const address = absoluteLink(href).slice(location.origin.length);
  const request = /\/requests\/([0-9a-f]{32})\//.exec(address);
  const file = /\/(?:profiles|threads|heap)\/([0-9a-f]{64})/.exec(address);
  return {
    address,
    ...(request && { traces: [request[1]] }),
    ...(file && { files: [file[1]] })
  };
}

/** The text of an element as it is seen, without marks that only repeat it, in one line. */
function wordsOf(element: Element): string {
  const copy = element.cloneNode(true) as Element;
  for (const mark of copy.querySelectorAll('.sr-only, [aria-hidden="true"]')) mark.remove();
  return copy.textContent.replace(/\s+/g, ' ').trim();
}
