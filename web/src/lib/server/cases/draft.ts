import type { Pin } from '@tromix/core/case/case';
import { stepOfSpan } from '@tromix/core/load/recorded';
import { formatCount, formatDuration, formatDurationRange, formatShare } from '@tromix/core/text/format';
import { ACCOUNT_NAMES, ACCOUNTS } from '@tromix/core/trace/account';
import { scopeQuery, scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { ledgerFrom, IN_COLUMNS } from '../db/ledger-columns';
import { select, selectJson } from '../db/reader';
import { seriesStep } from '../queries/bins';
import { findingsOf } from '../queries/findings';
import type { FoundGroup } from '../queries/found-group';
import { latency, seriesIn, totalIn } from '../queries/rollups';
import { spanOf } from '../queries/request';
import { predictedFor } from '../queries/sides/predictions';
import { settings } from '../settings';
import { sourceText } from '../sources/source-text';
import type { NewEntry } from './new-case';
import { ledgerPicture, linePicture } from './small-pictures';

/** The first draft of a case: every sentence is computed, and every one can be changed. */
export interface Draft {
  question: string;
  entries: NewEntry[];
}

/** A finding as an address names it. */
export interface DraftOf {
  service: string;
  endpoint: string;
  rule: string;
  subject: string;
}

const MOST_FINDINGS = 200;

/** Writes the draft of a case about a finding; null where it is not there (any more). */
export async function draftOf(of: DraftOf, asked: Scope, nowMs: number): Promise<Draft | null> {
  const window = scopeWindow(asked, nowMs);
  const scope: Scope = {
    ...asked,
    service: of.service,
    endpoint: of.endpoint,
    from: Math.floor(window.fromUs / 1000),
    to: Math.ceil(window.toUs / 1000)
  };
  const totals = await totalIn(scope, window, nowMs);
  const groups = await findingsOf(scope, window, nowMs, totals.exclusiveNs, {
    limit: MOST_FINDINGS,
    aside: true
  });
  const finding = groups.find(({ rule, subject }) => rule === of.rule && subject === of.subject);
  if (!finding) return null;
  const [slow, normal, code, prediction, step, series] = await Promise.all([
    requestEntry(finding.example, 'slow request', scope),
    normalEntry(finding, scope),
    codeOf(finding.origin),
    predictedFor(scope, [], finding, nowMs),
    finding.example ? spanOf(finding.example.traceId, finding.example.spanId) : null,
    mediansOf(scope, window, nowMs)
  ]);
  const [p50, p95] = latency(totals, [0.5, 0.95]);
  const address = (path: string): string => `${path}?${scopeQuery(scope)}`;
  const entries: (NewEntry | null)[] = [
    pinned('Noticed', {
      kind: 'endpoint',
      role: 'noticed',
      sentence: `${of.endpoint} of ${of.service} takes ${formatDuration(p50)} at the median and ${formatDuration(p95)} at p95. ${finding.title}: ${formatShare(finding.share)} of its time.`,
      figures: [
        { name: 'requests', value: formatCount(totals.count) },
        { name: 'median', value: formatDuration(p50) },
        { name: 'p95', value: formatDuration(p95) }
      ],
      picture: linePicture(series),
      address: address('/endpoint')
    }),
    slow,
    normal,
    pinned('Cause', {
      kind: 'finding',
      role: 'cause',
      sentence: [finding.sentence, finding.growth].filter(Boolean).join(' '),
      figures: causeFigures(finding, prediction.prediction),
      verbatim: finding.fingerprint,
      code,
      address: address('/findings'),
      traces: finding.example ? [finding.example.traceId] : []
    }),
    { title: 'What to do', text: finding.remedy, pin: null },
    { title: 'To reproduce', text: reproduceText(step), pin: null },
    {
      title: 'To check',
      text: `Send the same load before and after the change, and hold the two runs against each other: \`tromix compare before.json -- after.json\`, or *Compare* on the second run.`,
      pin: null
    }
  ];
  return {
    question: `${of.endpoint}: ${finding.title.toLowerCase()}`,
    entries: entries.filter((entry) => entry !== null)
  };
}

const SERIES_POINTS = 60;
/** The median over the window, nanoseconds; NaN where nothing came. */
async function mediansOf(scope: Scope, window: TimeWindow, nowMs: number): Promise<number[]> {
  const step = seriesStep(window, nowMs, SERIES_POINTS);
  const points = (await seriesIn(scope, window, step)).get(0) ?? [];
  if (points.length === 0) return [];
  const values = new Array<number>(points.at(-1)!.bin - points[0].bin + 1).fill(NaN);
  for (const { bin, totals } of points) [values[bin - points[0].bin]] = latency(totals, [0.5]);
  return values;
}

type PinFacts = Omit<Partial<Pin>, 'kind' | 'sentence' | 'address'> &
  Pick<Pin, 'kind' | 'sentence' | 'address'>;
export const pinned = (title: string, facts: PinFacts): NewEntry => ({
  title,
  text: '',
  pin: { role: '', figures: [], picture: '', code: null, verbatim: '', traces: [], files: [], ...facts }
});

function causeFigures(
  { requests, costNs, typicalCalls }: FoundGroup,
  prediction: { within: { low: number; high: number } } | null
): Pin['figures'] {
  return [
    { name: 'requests with it', value: formatCount(requests) },
    { name: 'costs in all', value: formatDuration(costNs) },
    ...(typicalCalls === null ? [] : [{ name: 'calls in a typical one', value: formatCount(typicalCalls) }]),
    ...(prediction
      ? [{ name: 'should take', value: formatDurationRange(prediction.within.low, prediction.within.high) }]
      : [])
  ];
}

/** One request with where its time went. */
export async function requestEntry(
  place: { traceId: string; spanId: string } | null,
  role: 'slow request' | 'normal request',
  scope: Scope
): Promise<NewEntry | null> {
  if (!place) return null;
  const [row] = await selectJson<number[]>(
    `SELECT json_group_array(json_array(duration_ns, ${IN_COLUMNS.join(', ')})) FROM requests WHERE trace_id = ? AND span_id = ?`,
    [place.traceId, place.spanId]
  );
  if (!row) return null;
  const ledger = ledgerFrom(row, 1);
  const accounts = ACCOUNTS.filter((account) => ledger[account] > 0).sort((a, b) => ledger[b] - ledger[a]);
  return pinned(role === 'slow request' ? 'One slow request' : 'A normal one', {
    kind: 'request',
    role,
    sentence: `${formatDuration(row[0])}, of which ${accounts
      .slice(0, 2)
      .map((account) => `${formatDuration(ledger[account])} ${ACCOUNT_NAMES[account].toLowerCase()}`)
      .join(' and ')}.`,
    figures: [
      { name: 'took', value: formatDuration(row[0]) },
      ...accounts.map((account) => ({ name: ACCOUNT_NAMES[account], value: formatDuration(ledger[account]) }))
    ],
    picture: ledgerPicture(ledger),
    address: `/requests/${place.traceId}/${place.spanId}?${scopeQuery(scope)}`,
    traces: [place.traceId]
  });
}

/** The request of median duration among those without the finding; null where all have it. */
async function normalEntry({ rule, service, endpoint }: FoundGroup, scope: Scope): Promise<NewEntry | null> {
  const [found] = await select<{ traceId: string; spanId: string }>(
    `WITH among AS MATERIALIZED (
        SELECT r.trace_id, r.span_id, r.duration_ns FROM requests r JOIN endpoints e ON e.id = r.endpoint_id JOIN services s ON s.id = e.service_id
        WHERE e.name = ? AND s.name = ? AND r.failed = 0 AND instr(r.rules, ?) = 0 ORDER BY r.start_us DESC LIMIT 1000)
      SELECT trace_id AS traceId, span_id AS spanId FROM among ORDER BY duration_ns LIMIT 1 OFFSET (SELECT max(0, count(*) - 1) / 2 FROM among)`,
    [endpoint, service, ` ${rule} `]
  );
  return found ? requestEntry(found, 'normal request', scope) : null;
}

/** The lines around the call that the finding is about; null where its source is not here. */
async function codeOf(origin: string): Promise<Pin['code']> {
  const [, file, line] = /^(.*?):(\d+)/.exec(origin) ?? [];
  if (!file) return null;
  const source = await sourceText(settings().sourceFolders, file, Number(line));
  if (!source.ok) return null;
  const { value } = source;
  return {
    file: value.file,
    line: value.line,
    release: '',
    lines: value.lines.map((text, i) => ({ number: value.from + i, text: text.slice(0, 1000) }))
  };
}

function reproduceText(span: Awaited<ReturnType<typeof spanOf>>): string {
  const read = span && stepOfSpan(span);
  if (!read?.ok) return 'Send the request again as it was recorded (*Repeat this* on the request).';
  const lines = read.steps.map(({ method, url }) => `curl -X ${method} '${url.replaceAll("'", '%27')}'`);
  return ['```sh', ...lines, '```', ...read.notes].join('\n');
}
