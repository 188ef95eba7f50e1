import { describe, expect, it } from 'vitest';
import { filePattern, opensFile } from './file-call';

describe('file calls', () => {
  it.each([
    ['readFile', true],
    ['file readFile', true],
    ['fs.openSync', true],
    ['appendFile', true],
    ['Files.ReadAllText', true],
    ['stat', false],
    ['reopen', false],
    ['read', false]
  ])('%s opens a file: %s', (verb, opens) => {
    expect(opensFile({ verb, fingerprint: '' })).toBe(opens);
  });

  it('tells the path from the operation, also where both have blanks', () => {
    expect(filePattern({ fingerprint: 'file read /var/a b/{n}.log', verb: 'file read' })).toBe(
      '/var/a b/{n}.log'
    );
  });
});
