import type { BaseIssue } from 'valibot';

/** Which part of what was given is wrong, and how: `steps 2 url: expected …`. Lists are counted from 1. */
export function wrongPart({ path, message }: BaseIssue<unknown>): string {
  const place = (path ?? [])
    .map(({ key }) => (typeof key === 'number' ? String(key + 1) : String(key)))
    .join(' ');
  return place ? `${place}: ${message}` : message;
}
