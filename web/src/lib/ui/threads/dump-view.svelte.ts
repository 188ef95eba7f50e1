import type { ThreadAcross } from '@tromix/core/threads/across';
import { stackGroups } from '@tromix/core/threads/groups';
import { THREAD_MODES } from '@tromix/core/threads/model';
import { isIdle } from '@tromix/core/threads/pools';
import type { EvidenceItem } from '$lib/server/queries/evidence';
import { exactTime } from '../kit/time';
import type { OpenedThreads } from './threads-client.svelte';
import { isIdleDaemon, matching, type ThreadsState } from './threads-state';

/** What is looked at: its members are read anew each time. */
export interface DumpWish {
  opened: OpenedThreads | null;
  /** Files of the series, and the one that was opened. */
  files: readonly EvidenceItem<'threads' | 'crash'>[];
  file: EvidenceItem<'threads' | 'crash'>;
  /** As the address says, with the text that is typed. */
  filters: ThreadsState;
}

const UNFILTERED = { pool: '', from: '', find: '' };

/** One dump of a series, as filters leave it, beside the others. */
export class DumpView {
  readonly #wish: DumpWish;

  /** To be made while a component is set up. */
  constructor(wish: DumpWish) {
    this.#wish = wish;
  }

  readonly dumps = $derived.by(() => this.#wish.opened?.series.dumps ?? []);
  /** The dump asked for; else the last of the file that was opened. */
  readonly at = $derived.by(() => {
    const { opened, filters, files, file } = this.#wish;
    if (!opened) return 0;
    if (filters.dump > 0) return Math.min(filters.dump, this.dumps.length) - 1;
    return Math.max(0, opened.partOf.lastIndexOf(files.findIndex(({ id }) => id === file.id)));
  });
  readonly dump = $derived.by(() => this.dumps.at(this.at));
  readonly frames = $derived.by(() => this.#wish.opened?.series.frames ?? []);
  readonly waits = $derived.by(() => this.#wish.opened?.waits.at(this.at));
  readonly pools = $derived.by(() => this.#wish.opened?.pools.at(this.at) ?? []);
  readonly reading = $derived.by(() => this.#wish.opened?.readings.at(this.at) ?? []);
  readonly findings = $derived.by(() => this.#wish.opened?.findings.at(this.at) ?? []);
  /** Threads that the filters leave. */
  readonly chosen = $derived.by(() =>
    this.dump ? matching(this.frames, this.dump.threads, this.#wish.filters) : []
  );
  readonly chosenSet = $derived.by(() => new Set(this.chosen));
  readonly filtered = $derived.by(() => {
    const { pool, mode, from, find } = this.#wish.filters;
    return pool !== '' || mode !== '' || from !== '' || find !== '';
  });
  readonly groups = $derived.by(() =>
    this.dump ? stackGroups(this.dump, this.#wish.filters.top || Infinity, this.chosen) : []
  );
  /** Threads over all dumps: those that matter here first. */
  readonly across = $derived.by(() =>
    (this.#wish.opened?.across ?? [])
      .filter((one) => this.#isListed(one))
      .map((one) => ({ one, weight: this.#weightOf(one) }))
      .sort((a, b) => b.weight - a.weight)
      .map(({ one }) => one)
  );
  readonly modeCounts = $derived.by(() =>
    THREAD_MODES.map((mode) => ({ mode, count: this.#countOf(mode) })).filter(({ count }) => count > 0)
  );
  readonly systemCount = $derived.by(() => this.dump?.threads.filter(({ system }) => system).length ?? 0);
  readonly daemonCount = $derived.by(
    () => this.dump?.threads.filter((thread) => isIdleDaemon(this.frames, thread)).length ?? 0
  );
  readonly heads = $derived.by(() =>
    this.dumps.map((_, i) =>
      this.#atMs(i) > 0 ? exactTime(this.#atMs(i)).replace(/\.\d+$/, '') : `dump ${i + 1}`
    )
  );
  /** Milliseconds between two dumps; 0 for one. */
  readonly apartMs = $derived.by(() => {
    const gaps = this.dumps.length - 1;
    return gaps > 0 ? (this.#atMs(gaps) - this.#atMs(0)) / gaps : 0;
  });
  /** CPU since the dump before, milliseconds, by thread. */
  readonly deltas = $derived.by(
    () =>
      new Map(
        (this.#wish.opened?.across ?? []).flatMap(({ standings }) => {
          const standing = standings[this.at];
          return standing ? [[standing.thread, standing.cpuMs] as const] : [];
        })
      )
  );

  /** The same thread in another dump; −1 where it is not there. */
  sameIn(thread: number, dump: number): number {
    const same = this.#wish.opened?.across.find(({ standings }) => standings[this.at]?.thread === thread);
    return same?.standings[dump]?.thread ?? -1;
  }

  /** Who waits for work stands still and is not stuck. */
  readonly isAtWork = (standing: { dump: number; thread: number }): boolean =>
    isIdle(this.frames, this.dumps[standing.dump].threads[standing.thread]) === false;

  #countOf(mode: ThreadsState['mode']): number {
    if (!this.dump) return 0;
    return matching(this.frames, this.dump.threads, { ...this.#wish.filters, ...UNFILTERED, mode }).length;
  }

  #isListed({ standings }: ThreadAcross): boolean {
    const standing = standings[this.at];
    if (standing) return this.chosenSet.has(standing.thread);
    return !this.filtered && standings.some((one, i) => one && !this.dumps[i].threads[one.thread].system);
  }

  /** Who holds up others first, then who is held up, then who did not move; who waits for work last. */
  #weightOf({ standings, sameFor }: ThreadAcross): number {
    const thread = standings[this.at]?.thread;
    const { waits, dump } = this;
    if (thread === undefined || !waits || !dump) return -1;
    if (isIdle(this.frames, dump.threads[thread]) !== false) return 0;
    return (
      (waits.heldQueues[thread].length > 0 ? 1000 : 0) + (waits.queueOf[thread] >= 0 ? 100 : 0) + sameFor
    );
  }

  /** A recording that was moved in time says so by when it began. */
  #atMs(i: number): number {
    const { opened, files, file } = this.#wish;
    const of = files[opened?.partOf[i] ?? 0] ?? file;
    const own = Date.parse(this.dumps[i]?.capturedAt ?? '');
    if (of.kind === 'crash' || !Number.isFinite(own)) return (of.startedAtUs ?? 0) / 1000;
    const { startedAtUs, summary } = of;
    return own + (startedAtUs === null || !summary?.firstMs ? 0 : startedAtUs / 1000 - summary.firstMs);
  }
}
