import * as v from 'valibot';
import { settings } from '../../settings';
import { sourceText } from '../../sources/source-text';
import { AskInstead, oneLine } from '../answer';
import { tool } from '../tool';

const AROUND = 12;

export const readSource = tool({
  name: 'read_source',
  says: 'The lines around a place in the source, as findings and functions name it. Only folders that the person who runs Tromix allowed (TROMIX_SOURCES) are read.',
  input: {
    file: v.pipe(v.string(), v.minLength(1), v.maxLength(1000), v.description('As the evidence names it.')),
    line: v.pipe(v.number(), v.integer(), v.minValue(1))
  },
  async answer({ file, line }) {
    const { sourceFolders } = settings();
    if (sourceFolders.length === 0)
      throw new AskInstead('No source folders are configured (TROMIX_SOURCES): read the file where you are.');
    const source = await sourceText(sourceFolders, file, line);
    if (!source.ok) throw new AskInstead(source.message);
    const { value } = source;
    return [
      `${oneLine(value.file)}, line ${value.line}:`,
      '```',
      ...value.lines
        .map((text, i) => ({ number: value.from + i, text }))
        .filter(({ number }) => Math.abs(number - value.line) <= AROUND)
        .map(
          ({ number, text }) =>
            `${number === value.line ? '>' : ' '} ${String(number).padStart(5)}  ${text.slice(0, 400)}`
        ),
      '```'
    ];
  }
});
