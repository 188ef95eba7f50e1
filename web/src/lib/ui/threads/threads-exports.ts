import { waitsPicture } from '@tromix/core/threads/picture';
import { plainText } from '@tromix/core/text/words';
import { copyText, type Action } from '../kit/actions';
import { saveText } from '../kit/save-text';
import type { DumpView } from './dump-view.svelte';
import { waitsSvg } from './waits-svg';

/** What a dump can be saved as. @param name of the process. */
export function threadsExports(view: DumpView, name: string, unfolded: readonly string[]): Action[] {
  const { frames, dump, waits, dumps, at, heads, findings } = view;
  const reading = view.reading.map(plainText);
  return [
    {
      name: 'Picture, SVG',
      run: () => {
        if (!waits || !dump) return;
        const whole = waitsPicture(frames, dump, waits, new Set(unfolded));
        saveText('waits-for.svg', waitsSvg(frames, dump, waits, whole), 'image/svg+xml');
      }
    },
    {
      name: 'Reading, text',
      run: () =>
        saveText(
          'threads.txt',
          [
            `${name}, dump ${at + 1} of ${dumps.length}, ${heads[at]}`,
            ...reading,
            '',
            ...findings.map(({ title, sentence, remedy }) => `${title}: ${sentence} ${remedy}`)
          ].join('\n'),
          'text/plain'
        )
    },
    { name: 'Copy the reading', run: () => copyText(reading.join('\n')) }
  ];
}
