import * as v from 'valibot';

/** What `tromix compare --json` prints. Numbers that are not known are null. Nanoseconds unless a name says otherwise. */

const number = v.nullable(v.number());
const count = v.pipe(v.number(), v.integer(), v.minValue(0));
const sides = <T extends v.GenericSchema>(of: T) => v.strictObject({ before: of, after: of });
const interval = v.strictObject({ low: number, high: number });
const warnings = v.array(v.looseObject({ code: v.string(), message: v.string(), count }));

const part = v.strictObject({
  kind: v.string(),
  name: v.string(),
  verb: v.string(),
  parent: v.string(),
  count,
  bookedNs: v.number(),
  squares: number
});
const ledger = v.strictObject({
  requests: sides(count),
  averageNs: sides(number),
  differenceNs: number,
  lines: v.array(
    v.strictObject({
      parts: sides(v.nullable(part)),
      perRequest: sides(v.strictObject({ calls: number, ns: number })),
      differenceNs: number,
      byHowOftenNs: number,
      byHowLongEachNs: number,
      replaced: v.boolean(),
      p: number,
      clear: v.boolean()
    })
  )
});
const change = v.nullable(
  v.strictObject({
    sides: sides(v.number()),
    sidesWithin: sides(interval),
    difference: v.number(),
    differenceWithin: interval,
    ratio: number,
    ratioWithin: v.nullable(interval)
  })
);
const comparison = v.strictObject({
  requests: sides(count),
  figures: sides(v.strictObject({ median: number, p95: number })),
  failed: sides(count),
  failedP: number,
  ledgers: v.strictObject({ part: ledger, account: ledger, service: v.nullable(ledger) }),
  findings: v.array(
    v.strictObject({
      rule: v.string(),
      subject: v.string(),
      found: sides(count),
      share: sides(number),
      state: v.picklist(['gone', 'new', 'rarer', 'more frequent', 'still there', 'not told']),
      p: number
    })
  ),
  notes: v.array(v.looseObject({ code: v.string() })),
  sure: v.strictObject({
    count: sides(count),
    effective: sides(v.number()),
    changes: v.strictObject({ median: change, p95: change }),
    faster: number,
    p: number,
    visible: number,
    verdict: v.picklist(['faster', 'slower', 'no clear change', 'too few', 'only sums']),
    about: v.nullable(v.picklist(['median', 'p95']))
  })
});
const only = v.array(
  v.strictObject({ service: v.string(), endpoint: v.string(), requests: count, alike: v.string() })
);

export const CompareOutput = v.strictObject({
  tromix: v.literal(1),
  files: sides(v.array(v.string())),
  endpoints: v.optional(v.array(v.strictObject({ service: v.string(), endpoint: v.string(), comparison }))),
  only: v.optional(v.strictObject({ before: only, after: only })),
  warnings: v.optional(sides(warnings)),
  functions: v.nullable(
    v.array(
      v.strictObject({
        name: v.string(),
        file: v.string(),
        line: v.number(),
        before: v.strictObject({ self: v.number(), total: v.number() }),
        after: v.strictObject({ self: v.number(), total: v.number() })
      })
    )
  ),
  heaps: v.nullable(
    v.strictObject({
      liveBytes: sides(v.number()),
      classes: v.array(v.strictObject({ name: v.string(), count: sides(count), bytes: sides(v.number()) }))
    })
  ),
  budget: v.nullable(
    v.array(
      v.strictObject({
        of: v.string(),
        what: v.string(),
        state: v.picklist(['kept', 'broken', 'not told']),
        limit: v.union([v.number(), v.string()]),
        measured: number,
        within: v.nullable(interval),
        reason: v.string()
      })
    )
  )
});

/** @throws ValiError for anything else. */
export const readCompareOutput = (value: unknown): v.InferOutput<typeof CompareOutput> =>
  v.parse(CompareOutput, value);
