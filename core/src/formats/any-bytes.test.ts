import { readFileSync } from 'node:fs';
import { gunzipSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fingerprintSql } from '../calls/sql/fingerprint';
import type { StatementLogFormat } from '../calls/statement-log/model';
import { readStatementLog } from '../calls/statement-log/read';
import {
  columnsOf,
  decodeHistograms,
  decodeNumbers,
  encodeHistograms,
  encodeNumbers
} from '../counters/chunk';
import { distributionsOf, histogramQuantile, merged } from '../counters/histograms';
import { increasesOf } from '../counters/increases';
import { maskContent, maskDocument } from '../mask/documents';
import { maskSpan } from '../calls/mask';
import { readProfile, type ProfileFormat } from '../profile/read';
import { slice } from '../profile/slice';
import { indexed } from '../testing/heap-store';
import type { ThreadFormat } from '../threads/model';
import { readThreads } from '../threads/read';
import { accountTrace } from '../trace/requests';
import { buildTree } from '../trace/tree';
import { groupBy } from '../group-by';
import { EvidenceError } from './evidence-error';
import { gunzip } from './gzip';
import { decodeLogsJson, decodeLogsProtobuf } from './otlp/logs';
import { decodeMetricsJson, decodeMetricsProtobuf } from './otlp/metrics';
import type { MetricBatch } from './otlp/metric-points';
import { ExportLogsServiceRequest, ExportTraceServiceRequest } from './otlp/schema';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from './otlp/traces';
import { recognise } from './recognise';

/**
 * Every reader, whatever it is given: any bytes, its own format cut anywhere, with any single byte changed, with a stretch doubled or taken out. It gives
 * a model, or one worded error with a code; never another fault, and within a time and a size.
 */
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const text = (content: Uint8Array): string => new TextDecoder().decode(content);
const recorded = (name: string): Uint8Array =>
  new Uint8Array(gunzipSync(readFileSync(new URL(`../../../workload/recordings/${name}`, import.meta.url))));
/** A recorded profile of another runtime. */
const made = (name: string): Uint8Array =>
  new Uint8Array(gunzipSync(readFileSync(new URL(`../../../recordings/profiles/${name}`, import.meta.url))));

const at = '1790000000000000000';
const SPAN = {
  traceId: '5b8efff798038103d269b633813fc60c',
  spanId: 'eee19b7ec3c1b174',
  parentSpanId: 'eee19b7ec3c1b173',
  name: 'POST /calls/:id/berth',
  kind: 2,
  startTimeUnixNano: at,
  endTimeUnixNano: '1790000000100000000',
  attributes: [
    { key: 'http.request.method', value: { stringValue: 'POST' } },
    { key: 'n', value: { intValue: '7' } },
    { key: 'l', value: { arrayValue: { values: [{ boolValue: true }, { doubleValue: 1.5 }] } } },
    { key: 'm', value: { kvlistValue: { values: [{ key: 'a', value: { stringValue: 'b' } }] } } }
  ],
  events: [
    {
      name: 'exception',
      timeUnixNano: at,
      attributes: [{ key: 'exception.message', value: { stringValue: 'x' } }]
    }
  ],
  status: { code: 2, message: 'late' }
};
const RESOURCE = { attributes: [{ key: 'service.name', value: { stringValue: 'berths' } }] };
const TRACES = {
  resourceSpans: [
    {
      resource: RESOURCE,
      scopeSpans: [{ spans: [SPAN, { ...SPAN, spanId: 'eee19b7ec3c1b173', parentSpanId: '' }] }]
    }
  ]
};
const LOGS = {
  resourceLogs: [
    {
      resource: RESOURCE,
      scopeLogs: [
        {
          logRecords: [
            {
              traceId: SPAN.traceId,
              timeUnixNano: at,
              severityNumber: 9,
              body: { stringValue: 'berth assigned' }
            }
          ]
        }
      ]
    }
  ]
};
/** Metrics of every kind, as the official SDK sends them. */
const metrics = (name: string): Uint8Array =>
  new Uint8Array(readFileSync(new URL(`../../../recordings/counters/${name}`, import.meta.url)));
/** What a batch of metrics is read for: as bytes and back, and what came between its points. */
const came = ({ numbers, histograms }: MetricBatch): unknown => [
  increasesOf(decodeNumbers(encodeNumbers(columnsOf(inTime(numbers)))), false),
  distributionsOf(decodeHistograms(encodeHistograms(inTime(histograms))), false).map((of) => [
    histogramQuantile(of, 0.5),
    merged(of, of)
  ])
];
const inTime = <Point extends { atMs: number }>(points: readonly Point[]): Point[] =>
  points.toSorted((a, b) => a.atMs - b.atMs);
const hexBytes = (hex: string): Uint8Array => Uint8Array.from(Buffer.from(hex, 'hex'));
const wire = (type: typeof ExportTraceServiceRequest, message: object): Uint8Array => {
  const binary = JSON.parse(JSON.stringify(message), (key, value: unknown) =>
    /^(?:traceId|spanId|parentSpanId)$/.test(key) ? [...hexBytes(String(value))] : value
  ) as object;
  return new Uint8Array(type.encode(type.fromObject(binary)).finish());
};

/** What is done with spans once they are read. */
const account = ({ spans }: TraceBatch): void => {
  const masked = spans.map((raw) => maskSpan(raw, { hashKey: 1, keepLiteralsOf: new Set() }));
  for (const list of groupBy(masked, ({ traceId }) => traceId).values())
    for (const request of accountTrace(buildTree(list)).requests)
      expect(Object.values(request.ledger).reduce((sum, ns) => sum + ns, 0)).toBe(request.durationNs);
};
const profile = (content: Uint8Array, format: ProfileFormat): void => {
  const read = readProfile(content, format).profile;
  expect(Number.isFinite(slice(read).sum)).toBe(true);
  for (const { name, file } of read.frames)
    expect([name.isWellFormed(), file.isWellFormed()]).toEqual([true, true]);
  maskContent(content, format);
};
const threads = (content: Uint8Array, format: ThreadFormat): void => {
  for (const dump of readThreads(content, format).series.dumps)
    for (const { name } of dump.threads) expect(name.isWellFormed()).toBe(true);
  maskDocument(text(content), format);
};
const statements = (content: Uint8Array, format: StatementLogFormat): void => {
  for (const { totalNs, fingerprint } of readStatementLog(text(content), format).groups)
    expect([Number.isFinite(totalNs), fingerprint.isWellFormed()]).toEqual([true, true]);
};

interface Reader {
  name: string;
  sample: Uint8Array;
  read: (content: Uint8Array) => unknown;
}
const READERS: Reader[] = [
  {
    name: 'traces, JSON',
    sample: bytes(JSON.stringify(TRACES)),
    read: (content) => account(decodeTracesJson(text(content)))
  },
  {
    name: 'traces, protobuf',
    sample: wire(ExportTraceServiceRequest, TRACES),
    read: (content) => account(decodeTracesProtobuf(content))
  },
  {
    name: 'logs, JSON',
    sample: bytes(JSON.stringify(LOGS)),
    read: (content) => decodeLogsJson(text(content))
  },
  { name: 'logs, protobuf', sample: wire(ExportLogsServiceRequest, LOGS), read: decodeLogsProtobuf },
  {
    name: 'counters, JSON',
    sample: metrics('cumulative-2.json'),
    read: (content) => came(decodeMetricsJson(text(content)))
  },
  {
    name: 'counters, protobuf',
    sample: metrics('cumulative-2.pb'),
    read: (content) => came(decodeMetricsProtobuf(content))
  },
  {
    name: 'a CPU profile',
    sample: bytes(small(text(recorded('cpu-tides-7.3-4.cpuprofile.gz')))),
    read: (content) => profile(content, 'v8-cpu-profile')
  },
  {
    name: 'an allocation profile',
    sample: recorded('allocation-tides-7.3-5.heapprofile.gz').slice(0, 200_000),
    read: (content) => profile(content, 'v8-heap-profile')
  },
  {
    name: 'folded stacks',
    sample: bytes('main;plan (berths/plan.ts:8:3);sort 40\nmain;plan (berths/plan.ts:8:3) 10\n'),
    read: (content) => profile(content, 'folded-stacks')
  },
  {
    name: 'threads of the JVM',
    sample: recorded('threads-pilots-1.txt.gz').slice(0, 6000),
    read: (content) => threads(content, 'jvm-threads')
  },
  {
    name: 'threads of the JVM, JSON',
    sample: bytes(
      JSON.stringify({
        threadDump: {
          processId: '4711',
          time: '2026-11-24T09:27:00.5Z',
          threadContainers: [
            {
              container: '<root>',
              threads: [
                { tid: '1', name: 'main', stack: ['java.base/java.lang.Thread.sleep(Native Method)'] }
              ]
            }
          ]
        }
      })
    ),
    read: (content) => threads(content, 'jvm-threads-json')
  },
  {
    name: 'threads of a JVM, as a file',
    sample: bytes(
      '4711\n2026-11-20T09:00:00.25Z\n21.0.4\n\n#1 "main"\n      quay.Harbour.await(Harbour.java:31)\n'
    ),
    read: (content) => threads(content, 'jvm-threads-file')
  },
  {
    name: 'a jsonlog of statements',
    sample: bytes(
      '{"timestamp":"2026-11-20 10:00:00.000 UTC","error_severity":"LOG","session_id":"a","message":"duration: 12.5 ms  statement: select 1"}\n'
    ),
    read: (content) => statements(content, 'postgresql-jsonlog')
  },
  {
    name: 'threads of Go',
    sample: bytes(
      'goroutine 1 [select, 5 minutes]:\nmain.(*Roster).Post(0xc0000b4000)\n\t/srv/pilots/roster.go:41 +0x57\n'
    ),
    read: (content) => threads(content, 'go-threads')
  },
  {
    name: 'threads of Python',
    sample: bytes(
      'Thread 0x00007f3b5c7fe700 (most recent call first):\n  File "/srv/tides/queue.py", line 40 in next_window\n'
    ),
    read: (content) => threads(content, 'python-threads')
  },
  {
    name: 'a diagnostic report',
    sample: bytes(
      JSON.stringify({
        header: { processId: 4711, dumpEventTime: '2026-11-24T09:27:00Z', nodejsVersion: 'v20.20.2' },
        javascriptStack: { message: 'Error', stack: ['at craneHours (file:///srv/berths/rank.ts:24:7)'] },
        workers: [{ header: { threadId: 1 }, javascriptStack: { stack: [] } }],
        libuv: [{ type: 'timer', is_active: true }]
      })
    ),
    read: (content) => threads(content, 'node-report')
  },
  {
    name: 'a csvlog',
    sample: bytes(
      '2026-11-20 10:00:00.000 UTC,"u","d",7,"[local]",1.2,1,"SELECT",2026-11-20 10:00:00 UTC,1/1,0,LOG,00000,"duration: 12.5 ms  statement: select 1",,,,,,,,,"psql"\n'
    ),
    read: (content) => statements(content, 'postgresql-csvlog')
  },
  {
    name: 'duration lines',
    sample: bytes(
      "2026-11-20 10:00:00.000 UTC [7] u@d LOG:  duration: 12.5 ms  statement: select * from t where a = 'x'\n"
    ),
    read: (content) => statements(content, 'postgresql-stderr')
  },
  {
    name: 'a slow log',
    sample: bytes(
      '# Time: 2026-11-20T10:00:00.000000Z\n# User@Host: u[u] @ localhost []\n# Query_time: 0.0125 Lock_time: 0.0 Rows_sent: 1 Rows_examined: 9\nSET timestamp=1790000000;\nselect * from t where a = "x";\n'
    ),
    read: (content) => statements(content, 'mysql-slow-log')
  },
  {
    name: 'a protobuf profile',
    sample: made('go/cpu.pb.gz'),
    read: (content) => profile(content, 'protobuf-profile')
  },
  {
    name: 'trace events',
    sample: bytes(shortened(text(made('chromium-trace.json.gz')), 'traceEvents')),
    read: (content) => profile(content, 'trace-events')
  },
  {
    name: 'a JVM’s own recording',
    sample: bytes(
      `{"recording":${shortened(text(made('tides.jfr.json.gz')).replace(/^\{\s*"recording":|\}\s*$/g, ''), 'events')}}`
    ),
    read: (content) => profile(content, 'jfr-json')
  },
  {
    name: 'gzip',
    sample: new Uint8Array(gzipSync('berth plan '.repeat(200))),
    read: (content) => gunzip(content, { maxBytes: 100_000, setting: 'X' })
  },
  { name: 'any file', sample: bytes('{"resourceSpans":[]}'), read: recognise },
  {
    name: 'a statement',
    sample: bytes("select q'[x]', E'it\\'s', $a$b$a$ from t where a in (1,2) and b = \"c\""),
    read: (content) =>
      ['postgresql', 'mysql', 'oracle', 'sqlite', 'mssql', 'generic'].map((dialect) =>
        fingerprintSql(text(content), dialect as 'generic')
      )
  }
];

/** A document with the first few of a list of its own. */
function shortened(json: string, list: string): string {
  const whole = JSON.parse(json) as Record<string, unknown[]>;
  return JSON.stringify({ ...whole, [list]: whole[list].slice(0, 12) });
}

/** The beginning of a recorded profile that is still one: some nodes and the samples of those. */
function small(json: string): string {
  const whole = JSON.parse(json) as {
    nodes: { id: number; children?: number[] }[];
    samples: number[];
    timeDeltas: number[];
    startTime: number;
  };
  const nodes = whole.nodes.slice(0, 60);
  const ids = new Set(nodes.map(({ id }) => id));
  const kept = nodes.map((node) => ({
    ...node,
    children: (node.children ?? []).filter((id) => ids.has(id))
  }));
  const samples = whole.samples.map((id) => (ids.has(id) ? id : nodes[0].id)).slice(0, 80);
  return JSON.stringify({
    nodes: kept,
    startTime: whole.startTime,
    endTime: whole.startTime + 1e6,
    samples,
    timeDeltas: whole.timeDeltas.slice(0, 80)
  });
}

/** A reading may take so long, milliseconds: machines are noisy. */
const MOST_MS = 3000;

function readsOrRefuses({ read }: Reader, content: Uint8Array): void {
  const begun = performance.now();
  try {
    read(content);
  } catch (cause) {
    if (!(cause instanceof EvidenceError)) throw cause;
    expect(cause.code).toMatch(/^[a-z0-9-]+$/);
    expect(cause.message.length).toBeGreaterThan(20);
  }
  expect(performance.now() - begun).toBeLessThan(MOST_MS);
}

const changes = (sample: Uint8Array): fc.Arbitrary<Uint8Array> =>
  fc.oneof(
    // Any cut.
    fc.nat(sample.length).map((to) => sample.slice(0, to)),
    fc.nat(sample.length).map((from) => sample.slice(from)),
    // Any single byte changed.
    fc.tuple(fc.nat(Math.max(0, sample.length - 1)), fc.nat(255)).map(([place, value]) => {
      const changed = sample.slice();
      changed[place] = value;
      return changed;
    }),
    // A stretch taken out, or there twice.
    fc
      .tuple(fc.nat(sample.length), fc.nat(200), fc.boolean())
      .map(([from, length, twice]) =>
        Uint8Array.from([
          ...sample.slice(0, twice ? from + length : from),
          ...sample.slice(twice ? from : from + length)
        ])
      ),
    // A number that no number holds, where a number stood.
    fc
      .tuple(
        fc.nat(sample.length),
        fc.constantFrom('1e999', '-1', '9'.repeat(40), 'null', '"\\ud800"', '{}', '[]', '0')
      )
      .map(([from, value]) => {
        const before = text(sample.slice(0, from));
        return bytes(before + text(sample.slice(from)).replace(/-?\d+(?:\.\d+)?/, value));
      }),
    fc.uint8Array({ maxLength: 400 })
  );

describe('whatever it is given, a reader gives a model or one worded error', () => {
  it.each(READERS.map((reader) => [reader.name, reader] as const))('%s', (_, reader) => {
    readsOrRefuses(reader, reader.sample);
    const runs = (reader.sample.length > 20_000 ? 60 : 400) * Number(process.env.FUZZ ?? 1);
    fc.assert(
      fc.property(changes(reader.sample), (content) => readsOrRefuses(reader, content)),
      { numRuns: runs }
    );
  });

  it('heap dumps too: see hprof.test.ts and v8-snapshot.test.ts; with any bytes behind their heads', () => {
    const heads = [
      'JAVA PROFILE 1.0.2\0\0\0\0\b\0\0\0\0\0\0\0\0',
      'JAVA PROFILE 1.0.1\0',
      '{"snapshot":{"meta":'
    ];
    fc.assert(
      fc.property(fc.constantFrom(...heads), fc.uint8Array({ maxLength: 300 }), (head, rest) => {
        const content = Uint8Array.from([...Buffer.from(head, 'latin1'), ...rest]);
        readsOrRefuses({ name: head, sample: content, read: (dump) => indexed(dump) }, content);
      }),
      { numRuns: 400 }
    );
  });

  it('and none of it takes memory without end', () => {
    const before = process.memoryUsage().rss;
    // Lengths that announce gigabytes.
    for (const length of [0x7f, 0xff])
      for (const { read } of READERS) {
        const content = Uint8Array.from([
          0x0a,
          length,
          length,
          length,
          length,
          0x0f,
          ...Array.from({ length: 64 }, () => length)
        ]);
        try {
          read(content);
        } catch (cause) {
          expect(cause).toBeInstanceOf(EvidenceError);
        }
      }
    expect(process.memoryUsage().rss - before).toBeLessThan(300 * 1024 * 1024);
  });
});
