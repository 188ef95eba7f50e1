import type { HarEntry, HarLog, HarPage } from '../formats/har';
import { pathOf, templatePath } from '../trace/path-template';
import { maskUrl } from '../mask/url';
import type { PageLoad, PageResource, ResourcePhases } from './page-load';
import { kindByType } from './resource-kind';
import { spanOfHeader } from './server-timing';

/** What an archive does not say of a page load. */
type Told = Pick<PageLoad, 'traceId' | 'service' | 'release'>;

/** −1 stands for what is not known. */
const known = (ms: number | null): number => (ms !== null && ms > 0 && Number.isFinite(ms) ? ms : 0);

/**
 * The page loads of an HTTP Archive, in their order. A largest paint is not in it: its loads are told up to the load event.
 * @param tell what the archive does not say, by the number of the page
 */
export function loadsFromHar(log: HarLog, tell: (page: number) => Told): PageLoad[] {
  const pages: readonly HarPage[] = log.pages.length > 0 ? log.pages : pagesOf(log.entries);
  return pages.flatMap((page, i) => {
    const beginMs = Date.parse(page.startedDateTime);
    const entries = log.entries.filter(({ pageref }) => log.pages.length === 0 || pageref === page.id);
    if (!Number.isFinite(beginMs) || entries.length === 0) return [];
    return [loadOf(page, entries, beginMs, tell(i))];
  });
}

/** An archive without pages is that of one, which begins with its first entry. */
function pagesOf(entries: readonly HarEntry[]): HarPage[] {
  const first = entries
    .map(({ startedDateTime }) => startedDateTime)
    .find((at) => Number.isFinite(Date.parse(at)));
  return first === undefined ? [] : [{ id: '', startedDateTime: first, title: '' }];
}

function loadOf(page: HarPage, entries: readonly HarEntry[], beginMs: number, told: Told): PageLoad {
  const resources = entries.flatMap((entry) => resourceOf(entry, beginMs) ?? []);
  const at = Math.max(
    0,
    resources.findIndex(({ kind, status }) => kind === 'document' && (status < 300 || status >= 400))
  );
  // The first of an archive is what was navigated to, whatever its type.
  const document = resources[at];
  if (document) document.kind = 'document';
  const firstByteMs = document?.phases?.responseStartMs ?? null;
  const loadedMs = page.pageTimings?.onLoad ?? -1;
  return {
    ...told,
    atUs: Math.round(beginMs * 1000),
    page: templatePath(pathOf(document?.url ?? '/')),
    url: document?.url ?? '',
    device: '',
    connection: '',
    country: '',
    session: '',
    source: 'archive',
    navigation: 'navigate',
    vitals: firstByteMs === null ? {} : { ttfb: firstByteMs },
    largest: null,
    elements: {},
    loadedMs: loadedMs >= 0 ? loadedMs : null,
    resources,
    tasks: [],
    steps: [],
    errors: [],
    leftOut: 0
  };
}

function resourceOf(entry: HarEntry, beginMs: number): PageResource | null {
  const startMs = Date.parse(entry.startedDateTime) - beginMs;
  if (!Number.isFinite(startMs)) return null;
  const { request, response, timings } = entry;
  const sizes = [response?.headersSize ?? -1, response?.bodySize ?? -1];
  const header = (name: string): string =>
    response?.headers.find((one) => one.name.toLowerCase() === name)?.value ?? '';
  return {
    kind: kindByType(response?.content?.mimeType ?? ''),
    method: request.method,
    url: maskUrl(request.url),
    startMs,
    endMs: startMs + known(entry.time),
    phases: timings && phasesOf(timings, startMs),
    transferBytes: sizes.some((size) => size < 0) ? null : sizes[0] + sizes[1],
    status: response?.status ?? 0,
    blocks: null,
    ...spanOfHeader(header('server-timing')),
    unusedShare: null
  };
}

/** The times of an entry follow each other: waiting in the browser, name look-up, connection (TLS within it), sending, waiting, receiving. */
function phasesOf(timings: NonNullable<HarEntry['timings']>, startMs: number): ResourcePhases {
  const lookupStartMs = startMs + known(timings.blocked);
  const lookupEndMs = lookupStartMs + known(timings.dns);
  const connectEndMs = lookupEndMs + known(timings.connect);
  const told = (ms: number | null, at: number): number | null => (ms !== null && ms >= 0 ? at : null);
  return {
    lookupStartMs: told(timings.dns, lookupStartMs),
    lookupEndMs: told(timings.dns, lookupEndMs),
    connectStartMs: told(timings.connect, lookupEndMs),
    secureStartMs: told(timings.ssl, connectEndMs - known(timings.ssl)),
    connectEndMs: told(timings.connect, connectEndMs),
    requestStartMs: connectEndMs,
    responseStartMs: told(timings.wait, connectEndMs + known(timings.send) + known(timings.wait))
  };
}
