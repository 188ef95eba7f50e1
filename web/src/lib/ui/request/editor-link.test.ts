import { describe, expect, it } from 'vitest';
import { editorLink, templateFault } from './editor-link';

const place = { path: '/srv/harbour/berths/plan #2.ts', file: 'berths/plan #2.ts', line: 88 };

describe('editorLink', () => {
  it('puts the place into the template, its path encoded', () => {
    expect(editorLink('quill://open?at={path}:{line}', place)).toBe(
      'quill://open?at=/srv/harbour/berths/plan%20%232.ts:88'
    );
    expect(editorLink('quill://{file}', { ...place, path: '' })).toBe('quill://berths/plan%20%232.ts');
    expect(editorLink('', place)).toBe('');
  });
  it('makes no link of what would run in the page', () => {
    for (const template of [
      'javascript:alert({path})',
      'JavaScript:{file}',
      'data:text/html,{path}',
      'blob:{path}'
    ]) {
      expect(templateFault(template)).not.toBe('');
      expect(editorLink(template, place)).toBe('');
    }
  });
  it('says what a template lacks', () => {
    expect(templateFault('open {path}')).toContain('scheme');
    expect(templateFault('quill://open')).toContain('{path}');
    expect(templateFault('')).toBe('');
  });
});
