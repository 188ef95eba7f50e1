import type { PaletteHit } from '$lib/server/queries/palette';
import type { Scope } from '$lib/scope';

/**
 * Questions in words. The grammar is small, and documented in docs/questions.md: each form has one place for a name, and what the name can be decides where the question leads.
 */

/** Where an answer is: a view, with what of the scope changes. */
export interface Place {
  path: string;
  change?: Partial<Scope>;
  choices?: Record<string, string>;
}
/** What was understood, in a whole sentence, and where its answer is. */
export interface Answer extends Place {
  sentence: string;
  /** How it is answered. */
  by: string;
}

interface Form {
  /** The question with `…` for a name, as it is offered. */
  template: string;
  /** Its first group is the name, as far as it is typed. */
  pattern: RegExp;
  /** Where it leads for something that has the name; null where that is not what is asked. */
  answer: (hit: PaletteHit) => Answer | null;
  /** Where it leads for the words themselves, without anything of that name. */
  plain?: (name: string) => Answer | null;
}

/** What a name narrows the scope to; null for what is no part of a scope. */
function scopeOfHit(hit: PaletteHit): Partial<Scope> | null {
  switch (hit.kind) {
    case 'endpoint':
      return { service: hit.service, endpoint: hit.name };
    case 'service':
    case 'host':
    case 'release':
      return { [hit.kind]: hit.name };
    default:
      return null;
  }
}
const nameOfHit = (hit: PaletteHit): string => ('name' in hit ? hit.name : hit.label);

/** A form about a part of the scope. */
const ofScope =
  (path: string, sentence: (name: string) => string, by: string, also: Partial<Scope> = {}) =>
  (hit: PaletteHit): Answer | null => {
    const change = scopeOfHit(hit);
    return change && { path, change: { ...change, ...also }, sentence: sentence(nameOfHit(hit)), by };
  };

/** A form about something that evidence of one kind names. */
const ofEvidence =
  (
    of: 'profile' | 'heap' | 'threads',
    place: (id: string, name: string) => Place,
    sentence: (name: string) => string,
    by: string
  ) =>
  (hit: PaletteHit): Answer | null =>
    hit.kind === 'named' && hit.of === of
      ? { ...place(hit.id, hit.name), sentence: sentence(hit.name), by: `${by}, ${hit.detail}` }
      : null;

const neighbours = (id: string, name: string): Place => ({
  path: `/profiles/${id}`,
  choices: { show: 'neighbours', of: name }
});

export const FORMS: readonly Form[] = [
  {
    template: 'why is … slow',
    pattern: /^why (?:is|are) (.*?)(?: (?:so )?slow)?\??$/i,
    answer: (hit) =>
      hit.kind === 'endpoint'
        ? {
            path: '/why',
            change: { service: hit.service, endpoint: hit.name },
            sentence: `Why is ${hit.name} slow?`,
            by: `its slow requests against its normal ones, ${hit.service}`
          }
        : hit.kind === 'page'
          ? {
              path: `/pages/${hit.id}`,
              sentence: `Why is ${hit.name} slow?`,
              by: `what comes before the largest paint, ${hit.detail}`
            }
          : null
  },
  {
    template: 'what changed since …',
    pattern: /^what (?:has )?changed (?:since|in|with) (.*?)\??$/i,
    answer: (hit) =>
      hit.kind === 'release'
        ? {
            path: '/compare/release',
            change: { release: hit.name },
            sentence: `What changed since ${hit.name}?`,
            by: 'this release against the one before'
          }
        : null
  },
  {
    template: 'who calls …',
    pattern: /^who calls (.*?)\??$/i,
    answer: (hit) =>
      hit.kind === 'call'
        ? {
            path: `/calls/${hit.group}`,
            sentence: `Who calls ${hit.label}?`,
            by: `the requests that make it, ${hit.detail}`
          }
        : ofEvidence('profile', neighbours, (name) => `Who calls ${name}?`, 'callers and callees')(hit)
  },
  {
    template: 'what does … call',
    pattern: /^what does (.*?)(?: call)?\??$/i,
    answer: (hit) =>
      ofScope('/endpoint', (name) => `What does ${name} call?`, 'what a request is made of')(hit) ??
      ofEvidence('profile', neighbours, (name) => `What does ${name} call?`, 'callers and callees')(hit)
  },
  {
    template: 'slowest requests of …',
    pattern: /^(?:the )?slow(?:est)? requests (?:of|on|in) (?:user )?(.*?)$/i,
    answer: ofScope('/requests', (name) => `Slowest requests of ${name}`, 'requests, slowest first'),
    plain: (user) => ofUser(user)
  },
  {
    template: 'failed requests of …',
    pattern: /^(?:the )?failed requests (?:of|on|in) (.*?)$/i,
    answer: ofScope('/requests', (name) => `Failed requests of ${name}`, 'requests that failed', {
      status: 'failed'
    })
  },
  {
    template: 'what keeps …',
    pattern: /^what (?:keeps|holds) (.*?)(?: alive)?\??$/i,
    answer: ofEvidence(
      'heap',
      (id, name) => ({ path: `/heap/${id}`, choices: { show: 'objects', class: name } }),
      (name) => `What keeps ${name}?`,
      'its objects, each with its path from a root'
    )
  },
  {
    template: 'who blocks …',
    pattern: /^(?:who|what) blocks (.*?)\??$/i,
    answer: ofEvidence(
      'threads',
      (id, name) => ({ path: `/threads/${id}`, choices: { named: name } }),
      (name) => `Who blocks ${name}?`,
      'who waits for whom'
    )
  }
];

const ofUser = (user: string): Answer => ({
  path: '/requests',
  change: { user },
  sentence: `Slowest requests of user ${user}`,
  by: 'requests of this user, slowest first'
});

/** A question as far as it is typed. */
export interface Asked {
  form: Form;
  /** The name in it; '' while none is typed. */
  name: string;
}

/** `… slower than 200 ms`, behind a question about requests. */
const SLOWER = /^(.*?) slower than (\d+(?:\.\d+)?) ?(ms|s)$/i;

/** The question that a text is; null for one that is none. */
export function questionOf(text: string): Asked | null {
  const typed = text.trim().replace(/\s+/g, ' ');
  for (const form of FORMS) {
    const found = form.pattern.exec(typed);
    if (found) return { form, name: SLOWER.exec(found[1])?.[1] ?? found[1] };
  }
  return null;
}

/** What the question means, for each thing that has the name. */
export function answersTo(text: string, { form, name }: Asked, hits: readonly PaletteHit[]): Answer[] {
  const [, , amount, unit] = SLOWER.exec(text.trim()) ?? [];
  const slower = amount === undefined ? undefined : Number(amount) * (unit.toLowerCase() === 's' ? 1000 : 1);
  const found = hits.flatMap((hit) => form.answer(hit) ?? []);
  const plain = name !== '' && /\buser\b/i.test(text) ? form.plain?.(name) : null;
  const all = plain ? [plain, ...found] : found;
  return slower === undefined
    ? all
    : all.map((answer) => ({
        ...answer,
        sentence: `${answer.sentence} slower than ${amount} ${unit}`,
        change: { ...answer.change, slower }
      }));
}

/** The forms that go on as the text begins: offered while one types. */
export function formsFrom(text: string): string[] {
  const typed = text.trim().toLowerCase();
  return typed.length < 2
    ? []
    : FORMS.map(({ template }) => template).filter((template) => {
        const begin = template.slice(0, template.indexOf('…')).trim();
        return begin.startsWith(typed) && begin !== typed;
      });
}
