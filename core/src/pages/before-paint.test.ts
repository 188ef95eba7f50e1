import { describe, expect, it } from 'vitest';
import { load, resource } from '../testing/page-load';
import { beforePaint, resourceName } from './before-paint';

const one = (hash: string, scriptMs: number, withTask: boolean) =>
  load({
    largest: { atMs: 200 + scriptMs + (withTask ? 100 : 0), element: 'h1', url: '' },
    resources: [
      resource('document', 'https://quay.example/board', 0, 200),
      resource('script', `https://cdn.quay.example/app-${hash}.js?v=1`, 200, 200 + scriptMs)
    ],
    tasks: withTask
      ? [{ startMs: 200 + scriptMs, endMs: 300 + scriptMs, script: 'app.js', function: 'drawTides' }]
      : []
  });

describe('what is before the largest paint of many loads', () => {
  it('is summed up under names that are the same from build to build', () => {
    const found = beforePaint([one('3f2a9c1d7b', 400, true), one('9b8c7d6e5f', 600, false), load()]);
    expect(found).toEqual([
      { what: 'script', name: '/app-:id.js', loads: 2, share: 1, meanMs: 500 },
      { what: 'document', name: '/board', loads: 2, share: 1, meanMs: 200 },
      { what: 'task', name: 'drawTides', loads: 1, share: 0.5, meanMs: 50 }
    ]);
  });

  it('is nothing where nothing was painted', () => expect(beforePaint([load()])).toEqual([]));
});

it.each([
  ['https://cdn.quay.example/assets/app.3f2a9c1d7b.js?x=1', '/assets/app.:id.js'],
  ['/board/17', '/board/:id'],
  ['', '']
])('%s is called %s', (url, name) => expect(resourceName(url)).toBe(name));
