import { briefOfCase } from '@tromix/core/case/brief';
import { briefMarkdown } from '@tromix/core/case/brief-markdown';
import * as v from 'valibot';
import { caseOf, casesOf } from '../../queries/cases';
import { AskInstead, oneLine, paged } from '../answer';
import { linkOf, PAGE } from '../scope-input';
import { tool } from '../tool';

export const readCase = tool({
  name: 'read_case',
  says: 'Investigations that people keep: without "id" a list of them; with it the short brief of one (question, figures, cause, what was done, how to check).',
  input: {
    id: v.optional(
      v.pipe(
        v.string(),
        v.regex(/^[0-9a-f]{16}$/, 'Expected an id as the list names it: 16 hexadecimal digits.')
      )
    ),
    page: PAGE
  },
  async answer({ id, page }, { origin, nowMs }) {
    if (id === undefined) {
      const all = await casesOf();
      if (all.length === 0) return ['Nobody has opened a case here.'];
      const { rows, note } = paged(all, page);
      return [
        ...rows.map((one) => `- ${one.id}: ${oneLine(one.question)} (${one.state}, ${one.entries} entries)`),
        note,
        linkOf(origin, '/cases', null)
      ];
    }
    const one = await caseOf(id);
    if (!one) throw new AskInstead('There is no case of this id. Ask without "id" for the list.');
    return briefMarkdown(briefOfCase(one, { length: 'short', origin, nowMs })).split('\n');
  }
});
