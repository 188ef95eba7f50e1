import type { Case, Pin, Role } from './case';

/** What a case needs to be handed over, and whether it has it. */
export interface Need {
  what: string;
  done: boolean;
}

/** Common practice of a report that somebody else can act on: what, since when, why, what then, and whether it held. */
export function checklistOf({
  question,
  entries,
  told
}: Pick<Case, 'question' | 'entries' | 'told'>): Need[] {
  const pins = entries.flatMap(({ pin }) => pin ?? []);
  const has = (role: Role, also: (pin: Pin) => boolean = () => true): boolean =>
    pins.some((pin) => pin.role === role && also(pin));
  return [
    { what: 'a question', done: question.trim() !== '' },
    { what: 'a slow request, and a normal one', done: has('slow request') && has('normal request') },
    { what: 'a cause with its figures', done: has('cause', ({ figures }) => figures.length > 0) },
    { what: 'the line of code', done: pins.some(({ code }) => code !== null) },
    { what: 'what it should save', done: has('prediction') || pins.some(saves) },
    { what: 'before and after, by the same steps', done: has('proof') },
    { what: 'who was told', done: told.trim() !== '' }
  ];
}

/** A finding says what it should save among its figures. */
const saves = ({ figures }: Pin): boolean => figures.some(({ name }) => name === 'should take');
