import { describe, expect, it } from 'vitest';
import { sourceLink } from './source-link';

const AT = { revision: 'abc1234', repository: 'https://forge.example/quay/board.git' };
const PLACE = { file: 'berths/plan at night.ts', line: 41 };

describe('the address of a line at a revision', () => {
  it('fills in what the process and the place tell', () =>
    expect(sourceLink('{repository}/src/{revision}/{file}#L{line}', AT, PLACE)).toBe(
      'https://forge.example/quay/board/src/abc1234/berths/plan%20at%20night.ts#L41'
    ));
  it('is none where something is not told, or no address comes of it', () => {
    expect(sourceLink('', AT, PLACE)).toBe('');
    expect(sourceLink('{repository}/{file}', { ...AT, repository: '' }, PLACE)).toBe('');
    expect(sourceLink('{repository}/{file}', { ...AT, repository: 'javascript:alert(1)//' }, PLACE)).toBe('');
    expect(sourceLink('https://forge.example/{revision}', { ...AT, revision: '"><script>' }, PLACE)).toBe(
      'https://forge.example/%22%3E%3Cscript%3E'
    );
  });
});
