import { parse } from 'shell-quote';
import type { LoadPlanInput } from './plan';

type StepInput = LoadPlanInput['steps'][number];
export type ReadSteps = { ok: true; steps: StepInput[]; notes: string[] } | { ok: false; message: string };

/** What an option does to the request. Those with a value take the next word. */
type Takes = 'method' | 'header' | 'data' | 'json' | 'agent' | 'cookie' | 'referer' | 'user' | 'url';
const WITH_VALUE: Record<string, Takes> = Object.assign(Object.create(null) as Record<string, Takes>, {
  '-X': 'method',
  '--request': 'method',
  '-H': 'header',
  '--header': 'header',
  '-d': 'data',
  '--data': 'data',
  '--data-raw': 'data',
  '--data-binary': 'data',
  '--data-ascii': 'data',
  '--json': 'json',
  '-A': 'agent',
  '--user-agent': 'agent',
  '-b': 'cookie',
  '--cookie': 'cookie',
  '-e': 'referer',
  '--referer': 'referer',
  '-u': 'user',
  '--user': 'user',
  '--url': 'url'
} satisfies Record<string, Takes>);
/** Options about what is printed or kept: they change nothing that is sent. Those of the second list have a value. */
const SILENT = new Set(
  '-s --silent -S --show-error -v --verbose -i --include -f --fail --fail-with-body -N --no-buffer -# --progress-bar --no-progress-meter -g --globoff -L --location'.split(
    ' '
  )
);
const SILENT_WITH_VALUE = new Set('-o --output -w --write-out -c --cookie-jar -D --dump-header'.split(' '));

/**
 * A request as it is pasted from a terminal or a browser: one line of curl, also broken by backslashes. An option that is not known, or that cannot be
 * done, is named; nothing is left out in silence.
 * Source: curl's manual page, version 8, from memory.
 */
export function readCurl(line: string): ReadSteps {
  const words = shellWords(line);
  if (typeof words === 'string') return { ok: false, message: words };
  if (words[0] !== 'curl')
    return {
      ok: false,
      message: `Expected a line that begins with curl, but found ${words[0] || 'nothing'}.`
    };
  const request = new CurlRequest();
  const left = words.slice(1);
  for (let word = left.shift(); word !== undefined; word = left.shift()) {
    for (const [option, attached] of optionsOf(word)) {
      if (!option.startsWith('-')) request.urls.push(option);
      else if (option in WITH_VALUE || SILENT_WITH_VALUE.has(option)) {
        const value = attached ?? left.shift();
        if (value === undefined) return { ok: false, message: `Expected a value after ${option}.` };
        const wrong = option in WITH_VALUE ? request.take(WITH_VALUE[option], value) : '';
        if (wrong) return { ok: false, message: wrong };
      } else if (!SILENT.has(option)) {
        const wrong = request.flag(option);
        if (wrong) return { ok: false, message: wrong };
      }
    }
  }
  return request.steps();
}

/** An option, and the value that is attached to it, if any. */
type Option = [name: string, attached: string | undefined];

/** `--request=POST` and `-XPOST` carry their value; `-sSX` is three options, of which the last may. What is no option stays a word. */
function optionsOf(word: string): Option[] {
  if (/^--[\w-]+=/.test(word)) {
    const at = word.indexOf('=');
    return [[word.slice(0, at), word.slice(at + 1)]];
  }
  if (!/^-[A-Za-z#]./.test(word)) return [[word, undefined]];
  const options: Option[] = [];
  for (let at = 1; at < word.length; at++) {
    const name = `-${word[at]}`;
    const takes = name in WITH_VALUE || SILENT_WITH_VALUE.has(name);
    options.push([name, takes && at + 1 < word.length ? word.slice(at + 1) : undefined]);
    if (takes) break;
  }
  return options;
}

/** The words of a line as a POSIX shell splits them; text for what is no plain command. */
function shellWords(line: string): string[] | string {
  const joined = line.trim().replace(/\\\r?\n/g, ' ');
  if (joined === '') return 'Expected a line of curl, but found nothing.';
  // $'…' (ANSI-C quoting) is how browsers write bodies with line breaks.
  const plain = joined.replace(/\$'((?:[^'\\]|\\.)*)'/gs, (_, inner: string) =>
    singleQuoted(unescaped(inner))
  );
  const parts = parse(plain, (name) => `$${name}`);
  const words: string[] = [];
  for (const part of parts) {
    if (typeof part === 'string') words.push(part);
    else if ('pattern' in part) words.push(part.pattern);
    else if ('comment' in part) break;
    else return `Expected one command, but found ${part.op}. Paste the line up to there.`;
  }
  return words;
}

const singleQuoted = (text: string): string => `'${text.replaceAll("'", `'\\''`)}'`;
const ESCAPES: Record<string, string> = { n: '\n', r: '\r', t: '\t', '\\': '\\', "'": "'", '"': '"' };
const unescaped = (text: string): string =>
  text.replace(
    /\\(?:u([0-9a-fA-F]{4})|x([0-9a-fA-F]{2})|(.))/gs,
    (whole, u: string, x: string, one: string) =>
      u || x ? String.fromCharCode(parseInt(u || x, 16)) : (ESCAPES[one] ?? whole)
  );

const FORM = 'application/x-www-form-urlencoded';

/** What the options of one line come to. */
class CurlRequest {
  readonly urls: string[] = [];
  readonly #headers: [string, string][] = [];
  readonly #data: string[] = [];
  #method = '';
  #asQuery = false;
  #json = false;

  /** @returns what is wrong; '' for nothing. */
  take(what: Takes, value: string): string {
    if (what === 'method') this.#method = value;
    else if (what === 'url') this.urls.push(value);
    else if (what === 'agent') this.#headers.push(['user-agent', value]);
    else if (what === 'referer') this.#headers.push(['referer', value]);
    else if (what === 'user') this.#headers.push(['authorization', `Basic ${base64(value)}`]);
    else if (what === 'cookie') {
      if (!value.includes('=')) return 'Cookies cannot be read from a file here: give them as name=value.';
      this.#headers.push(['cookie', value]);
    } else if (what === 'header') {
      const [, name, text] = /^([^:;]+)[:;]\s*(.*)$/s.exec(value) ?? [];
      if (name === undefined)
        return `Expected a header such as “accept: application/json”, but found ${value}.`;
      this.#headers.push([name.trim().toLowerCase(), text]);
    } else {
      if (value.startsWith('@'))
        return `The body cannot be read from the file ${value.slice(1)} here: paste it in place of ${value}.`;
      this.#json ||= what === 'json';
      this.#data.push(value);
    }
    return '';
  }

  /** @returns what is wrong; '' for nothing. */
  flag(option: string): string {
    if (option === '-G' || option === '--get') this.#asQuery = true;
    else if (option === '-I' || option === '--head') this.#method = 'HEAD';
    else if (option === '--compressed') this.#headers.push(['accept-encoding', 'gzip, deflate, br']);
    else
      return `The option ${option} is not known here. Remove it, if the request means the same without it.`;
    return '';
  }

  steps(): ReadSteps {
    if (this.urls.length === 0)
      return { ok: false, message: 'Expected an address in the line, but found none.' };
    const data = this.#data.join(this.#json ? '' : '&');
    const body = this.#asQuery ? '' : data;
    const headers = [...this.#headers];
    const has = (name: string): boolean => headers.some(([known]) => known === name);
    if (body && !has('content-type')) headers.push(['content-type', this.#json ? 'application/json' : FORM]);
    if (this.#json && !has('accept')) headers.push(['accept', 'application/json']);
    const method = this.#method || (body ? 'POST' : 'GET');
    const { kept, notes } = sendable(headers);
    return {
      ok: true,
      notes,
      steps: this.urls.map((given) => {
        const url = /^[a-z]+:\/\//i.test(given) ? given : `http://${given}`;
        const query = this.#asQuery && data ? `${url.includes('?') ? '&' : '?'}${data}` : '';
        return { method, url: url + query, headers: kept, body };
      })
    };
  }
}

/** Base64 of the UTF-8 bytes (RFC 7617). */
const base64 = (text: string): string => btoa(String.fromCharCode(...new TextEncoder().encode(text)));

/** Set by the driver, or about one connection only. */
const LEFT_OUT =
  /^(?::.*|traceparent|tracestate|content-length|host|connection|keep-alive|transfer-encoding|upgrade|expect|proxy-.*)$/i;

/** Headers that are sent, and what is said of those that are not. */
export function sendable(headers: readonly (readonly [string, string])[]): {
  kept: [string, string][];
  notes: string[];
} {
  const kept = headers
    .filter(([name]) => !LEFT_OUT.test(name))
    .map(([name, value]): [string, string] => [name, value]);
  const dropped = [...new Set(headers.map(([name]) => name.toLowerCase()))].filter((name) =>
    LEFT_OUT.test(name)
  );
  return {
    kept,
    notes: dropped.length > 0 ? [`Left out, since the driver sets them itself: ${dropped.join(', ')}.`] : []
  };
}
