import { setTimeout as sleep } from 'node:timers/promises';
import * as v from 'valibot';
import { plural } from '@tromix/core/text/format';
import { cutText, wellFormed } from '@tromix/core/text/well-formed';
import type { Place } from './addresses';
import { Coverage, functionAround, plainName } from './function-around';
import { Inspector, InspectorError } from './inspector';
import {
  Broken,
  Internals,
  Location,
  Paused,
  Places,
  Properties,
  Script,
  Source,
  type Pause
} from './observe-protocol';
import { describe, MAX_MEMBERS, MAX_VALUE, Remote } from './observed-value';

/** What is looked at from inside, and for how long. */
export interface ObserveOrder {
  /** The function, as profiles name it: lines and columns count from 1. Column 0: the function that the line lies in, as stacks have it. */
  name: string;
  file: string;
  line: number;
  column: number;
  /** Ends after so many calls, or seconds. */
  calls: number;
  seconds: number;
  /** The process stands still for at most this part of the time. */
  share: number;
}

export interface ObservedValue {
  name: string;
  value: string;
}

/** One call from inside. Times in milliseconds. */
export interface ObservedCall {
  /** From the beginning of the observation. */
  atMs: number;
  arguments: ObservedValue[];
  /** What it gave back, or threw; null where its end was not seen. */
  result: { how: 'returned' | 'threw'; value: string } | null;
  /** From its first to its last statement, without the pauses; null where its end was not seen. */
  tookMs: number | null;
  /** Who called it, the innermost first. */
  stack: string[];
  /** How long the process stood still for it. */
  pausedMs: number;
}

/** How far an observation is. */
export interface Observed {
  /** The function that is looked at, where only a line of it was named: its name and the line where it begins. */
  found: { name: string; line: number } | null;
  calls: ObservedCall[];
  /** For how long it has run, and of that how long the process stood still in all. */
  ranMs: number;
  pausedMs: number;
  /** Times it stopped looking for a while, so as not to take more than its share. */
  rests: number;
  /** Why it ended; '' while it runs. */
  ended: string;
}

const ANSWER_MS = 10_000;
const MAX_ARGUMENTS = 20;
const MAX_STACK = 30;
/** Calls of one function that are under way at once; beyond that their ends cannot be told apart. */
const MAX_OPEN = 100;
const CAUGHT_MS = 500;
/** So far beyond its share, and so much more for a single call, it looks away though a call is under way. */
const FAR_BEYOND = 4;
const ONE_CALL_MS = 250;

/** A call that is under way. */
interface OpenCall {
  depth: number;
  call: ObservedCall;
  enteredMs: number;
  /** Pauses of the process, in all, when it was entered. */
  pausedBefore: number;
}

/**
 * Looks at one function of a running process from inside: what it is given, what it gives back, for how long, called by whom. The process is stopped at its first
 * and at its last statement for a moment. It ends by itself, also when this thread dies: what V8 was told to stop at goes with the connection.
 */
export class Observation {
  readonly observed: Observed = { found: null, calls: [], ranMs: 0, pausedMs: 0, rests: 0, ended: '' };
  readonly #inspector: Inspector;
  readonly #order: ObserveOrder;
  readonly #begunMs = performance.now();
  readonly #stop = new AbortController();
  readonly #open: OpenCall[] = [];
  #entries = new Set<string>();
  /** It may go on after an await, on another stack: then ends are told apart only while one call is under way. */
  #isAsync = false;
  /** Where the function stands, as V8 tells it of frames. */
  #function = '';
  /** Addresses of scripts. */
  readonly #urls = new Map<string, string>();
  #seen = 0;
  /** Runs out when the process has thrown nothing for a while. */
  #quiet: NodeJS.Timeout | undefined;
  #onpause: (pause: Pause) => void = () => undefined;
  #resting = false;
  /** Pauses come one after another. */
  #work: Promise<unknown> = Promise.resolve();

  private constructor(inspector: Inspector, order: ObserveOrder) {
    this.#inspector = inspector;
    this.#order = order;
  }

  /** @throws InspectorError where the process does not answer, or does not run that function */
  static async start(place: Place, order: ObserveOrder): Promise<Observation> {
    const inspector = await Inspector.open(place);
    const observation = new Observation(inspector, order);
    try {
      await observation.#place();
    } catch (cause) {
      inspector.close();
      throw cause;
    }
    void observation.#run();
    return observation;
  }

  /** Ends it before its time. */
  end(): void {
    this.#stop.abort();
  }

  async #place(): Promise<void> {
    await this.#scripts();
    const scriptId = scriptOf(this.#urls, this.#order.file);
    if (!scriptId)
      throw new InspectorError(
        `This process runs no file ${cutText(this.#order.file, 200)}, or several that end so.`
      );
    this.#inspector.on((event) => this.#hear(event));
    const source = await this.#sourceOf(scriptId);
    const lines = source.split('\n');
    const start = { scriptId, ...(await this.#startIn(scriptId, source)) };
    const reply = await this.#ask('Debugger.getPossibleBreakpoints', { start, restrictToFunction: true });
    const found = v.safeParse(Places, reply);
    const [first, ...others] = found.success ? found.output.result.locations : [];
    if (!first || start.columnNumber > (lines[start.lineNumber]?.length ?? -1))
      throw new InspectorError(
        `No function begins at line ${this.#order.line} of that file in this process: it may run another release.`
      );
    const entry = await this.#breakAt(first);
    if (!entry) throw new InspectorError('The process does not stop at that function.');
    this.#entries = new Set([entry]);
    for (const location of others) if (location.type === 'return') await this.#breakAt(location);
    // Samples name a function by where its parameters begin.
    this.#isAsync = /\basync\s*(?:function\b\s*\*?\s*)?[\w$#]*\s*$/.test(
      lines[start.lineNumber].slice(0, start.columnNumber)
    );
  }

  /** Where the function begins. @throws InspectorError where only a line is named, and no function that ran lies there */
  async #startIn(scriptId: string, source: string): Promise<{ lineNumber: number; columnNumber: number }> {
    const { line, column, name } = this.#order;
    if (column > 0) return { lineNumber: line - 1, columnNumber: column - 1 };
    await this.#ask('Profiler.enable', {});
    const reply = v.safeParse(Coverage, await this.#ask('Profiler.getBestEffortCoverage', {}));
    const scripts = reply.success ? reply.output.result.result : [];
    const functions = scripts.find((script) => script.scriptId === scriptId)?.functions ?? [];
    const found = functionAround(functions, source, line - 1, name);
    if (!found)
      throw new InspectorError(
        `Line ${line} of that file lies in no function that this process ran: it may run another release, or a built file.`
      );
    this.observed.found = { name: found.name, line: found.lineNumber + 1 };
    return { lineNumber: found.lineNumber, columnNumber: found.columnNumber };
  }

  async #sourceOf(scriptId: string): Promise<string> {
    const reply = v.safeParse(Source, await this.#ask('Debugger.getScriptSource', { scriptId }));
    return reply.success ? reply.output.result.scriptSource : '';
  }

  async #scripts(): Promise<void> {
    const ended = this.#inspector.on((event) => {
      if (!/^\s*\{\s*"method"\s*:\s*"Debugger\.scriptParsed"/.test(event)) return;
      const parsed = v.safeParse(Script, JSON.parse(event));
      if (parsed.success && parsed.output.params.url)
        this.#urls.set(parsed.output.params.scriptId, parsed.output.params.url);
    });
    await this.#inspector.send('Debugger.enable', {}, ANSWER_MS);
    ended();
  }

  async #breakAt({ scriptId, lineNumber, columnNumber }: Location): Promise<string | null> {
    const reply = await this.#ask('Debugger.setBreakpoint', {
      location: { scriptId, lineNumber, columnNumber }
    });
    const set = v.safeParse(Broken, reply);
    return set.success ? set.output.result.breakpointId : null;
  }

  async #run(): Promise<void> {
    const over = sleep(this.#order.seconds * 1000, undefined, { signal: this.#stop.signal }).catch(
      () => undefined
    );
    const gone = await Promise.race([over.then(() => false), this.#inspector.gone.then(() => true)]);
    this.#tell();
    await this.#work.catch(() => undefined);
    if (!gone) await this.#confirm();
    const { observed } = this;
    if (!observed.ended)
      observed.ended = gone
        ? 'The process ended, or closed its inspector.'
        : this.#stop.signal.aborted
          ? 'It was ended.'
          : 'Its time was over.';
    // One that is left while it stands still must not stay so.
    await this.#inspector.send('Debugger.disable', {}, ANSWER_MS).catch(() => undefined);
    this.#inspector.close();
  }

  #tell(): void {
    this.observed.ranMs = performance.now() - this.#begunMs;
  }

  #hear(event: string): void {
    if (!/^\s*\{\s*"method"\s*:\s*"Debugger\.paused"/.test(event)) return;
    const atMs = performance.now();
    const parsed = v.safeParse(Paused, JSON.parse(event));
    this.#work = this.#work
      .then(() => (parsed.success ? this.#paused(parsed.output.params, atMs) : undefined))
      .catch(() => undefined)
      // Whatever went wrong, the process goes on.
      .then(() => this.#goOn(atMs))
      .catch(() => this.end());
  }

  async #goOn(pausedAtMs: number): Promise<void> {
    // Before it goes on: the next call may come at once.
    if (this.#seen < this.#order.calls || this.#open.length > 0)
      await this.#rest(this.observed.pausedMs + performance.now() - pausedAtMs).catch(() => undefined);
    await this.#inspector.send('Debugger.resume', {}, ANSWER_MS).catch(() => this.#inspector.close());
    // Says nothing new. What is sent carries the acknowledgement of the answer, for which the process would else hold back its next event for 40 ms, standing
    // still (the delayed acknowledgement of TCP).
    void this.#inspector.send('Debugger.setSkipAllPauses', { skip: false }, ANSWER_MS).catch(() => undefined);
    const took = performance.now() - pausedAtMs;
    this.observed.pausedMs += took;
    const last = this.observed.calls.at(-1);
    if (last) last.pausedMs += took;
    this.#tell();
    if (this.#seen >= this.#order.calls) this.#endSoon();
  }

  /** What was thrown may still be caught: it is waited for the return as long as the process throws, and for a moment. */
  #endSoon(): void {
    clearTimeout(this.#quiet);
    const isOver = (): boolean => this.#open.every(({ call }) => call.result !== null);
    const end = (): void => {
      if (!isOver() || this.observed.ended) return;
      this.observed.ended = `It saw ${plural(this.#seen, 'call')}.`;
      this.end();
    };
    if (!isOver()) return;
    if (this.#open.length === 0) end();
    else this.#quiet = setTimeout(() => void this.#confirm().then(end), CAUGHT_MS).unref();
  }

  /** A call that still runs was not left by what it threw: how it ends is not known yet. */
  async #confirm(): Promise<void> {
    if (this.#isAsync || this.#open.length === 0) return;
    const pause = new Promise<Pause | null>((resolve) => {
      this.#onpause = resolve;
      setTimeout(() => resolve(null), CAUGHT_MS).unref();
    });
    // A process that runs nothing is not stopped: then the function does not run either.
    await this.#ask('Debugger.pause', {}).catch(() => undefined);
    const seen = await pause;
    this.#onpause = () => undefined;
    if (!seen) return;
    const depth = seen.callFrames.length;
    for (const open of this.#open) if (this.#standsOn(seen.callFrames, depth, open)) open.call.result = null;
  }

  /**
   * Looks away for as long as it takes for the pauses to be no more than their share of the time. The end of a call that is under way is waited for, unless that
   * goes far beyond the share.
   */
  async #rest(pausedMs: number): Promise<void> {
    const { share } = this.#order;
    const allowedMs = share * (performance.now() - this.#begunMs);
    if (this.#resting || pausedMs <= allowedMs) return;
    if (this.#open.length > 0 && pausedMs <= FAR_BEYOND * allowedMs + ONE_CALL_MS) return;
    this.#resting = true;
    this.observed.rests++;
    await this.#inspector.send('Debugger.setBreakpointsActive', { active: false }, ANSWER_MS);
    // The ends of what is under way are not seen any more.
    this.#open.length = 0;
    await this.#inspector.send('Debugger.setPauseOnExceptions', { state: 'none' }, ANSWER_MS);
    const untilMs = Math.max(0, pausedMs / share - (performance.now() - this.#begunMs));
    void sleep(untilMs, undefined, { signal: this.#stop.signal })
      .then(() => this.#inspector.send('Debugger.setBreakpointsActive', { active: true }, ANSWER_MS))
      .catch(() => undefined)
      .finally(() => (this.#resting = false));
  }

  async #paused(pause: Pause, atMs: number): Promise<void> {
    this.#onpause(pause);
    const depth = pause.callFrames.length;
    if (pause.reason === 'exception' || pause.reason === 'promiseRejection')
      return this.#threw(pause, depth, atMs);
    const [frame] = pause.callFrames;
    const isEntry = pause.hitBreakpoints.some((id) => this.#entries.has(id));
    if (isEntry) await this.#entered(pause, depth, atMs);
    // V8 tells what is returned where the function stands at its return.
    if (frame.returnValue) await this.#returned(frame.returnValue, depth, atMs);
  }

  async #entered(pause: Pause, depth: number, atMs: number): Promise<void> {
    // On one stack no call begins beside another of the same depth: that one was left by what it threw.
    if (!this.#isAsync) while (this.#open.length > 0 && this.#open.at(-1)!.depth >= depth) this.#open.pop();
    if (this.#seen >= this.#order.calls || this.#open.length >= MAX_OPEN) return;
    const [frame, ...callers] = pause.callFrames;
    const name = plainName(this.#order.name);
    if (name && frame.functionName && plainName(frame.functionName) !== name) {
      this.observed.ended = `At that place this process runs ${frame.functionName}, and not ${name}: it may be another release.`;
      return this.end();
    }
    this.#seen++;
    this.#function = functionOf(frame);
    const call: ObservedCall = {
      atMs: atMs - this.#begunMs,
      arguments: await this.#argumentsOf(frame),
      result: null,
      tookMs: null,
      stack: callers.slice(0, MAX_STACK).map((caller) => this.#placeWords(caller)),
      pausedMs: 0
    };
    this.observed.calls.push(call);
    this.#open.push({ depth, call, enteredMs: atMs, pausedBefore: this.observed.pausedMs });
    // While an async function waits others throw and catch: to stop for all of that would cost the process more than it tells.
    const state = this.#isAsync ? 'uncaught' : 'all';
    await this.#inspector.send('Debugger.setPauseOnExceptions', { state }, ANSWER_MS);
  }

  async #returned(value: Remote, depth: number, atMs: number): Promise<void> {
    const given = this.#isAsync ? await this.#settled(value) : value;
    if (!given) return;
    const open = this.#takeOpen(depth);
    if (!open) return;
    this.#note(open, atMs, { how: 'returned', value: describe('result', await this.#previewed(given)) });
    if (this.#open.length === 0)
      await this.#inspector.send('Debugger.setPauseOnExceptions', { state: 'none' }, ANSWER_MS);
  }

  /** V8 tells of what is returned no more than its class: its members are asked for. */
  async #previewed(value: Remote): Promise<Remote> {
    if (value.type !== 'object' || value.preview || !value.objectId || value.subtype === 'error')
      return value;
    const members = await this.#membersOf(value.objectId);
    const properties = members.slice(0, MAX_MEMBERS).map(({ name, value: { type, subtype, ...of } }) => ({
      name,
      type,
      subtype,
      value:
        type === 'string' ? String(of.value) : (of.unserializableValue ?? of.description ?? String(of.value))
    }));
    return {
      ...value,
      preview: { subtype: value.subtype, properties, overflow: members.length > MAX_MEMBERS }
    };
  }

  /** Members of an object that have a value. */
  async #membersOf(objectId: string): Promise<{ name: string; value: Remote }[]> {
    const reply = v.safeParse(
      Properties,
      await this.#ask('Runtime.getProperties', { objectId, ownProperties: true, generatePreview: true })
    );
    if (!reply.success) return [];
    return reply.output.result.result.flatMap(({ name, value, enumerable }) =>
      value && enumerable ? [{ name, value }] : []
    );
  }

  /** What an async function's promise has become; null while it has not. */
  async #settled(promise: Remote): Promise<Remote | null> {
    if (promise.subtype !== 'promise' || !promise.objectId) return promise;
    const reply = v.safeParse(
      Internals,
      await this.#ask('Runtime.getProperties', {
        objectId: promise.objectId,
        ownProperties: true,
        generatePreview: true
      })
    );
    const inside = reply.success ? reply.output.result.internalProperties : [];
    const state = inside.find(({ name }) => name === '[[PromiseState]]')?.value?.value;
    if (state === 'pending') return null;
    return inside.find(({ name }) => name === '[[PromiseResult]]')?.value ?? promise;
  }

  /** The call that ends here, and those inside it that ended unseen. */
  #takeOpen(depth: number): OpenCall | undefined {
    if (this.#isAsync) return this.#open.length === 1 ? this.#open.pop() : undefined;
    const at = this.#open.findLastIndex((open) => open.depth === depth);
    return at < 0 ? undefined : this.#open.splice(at)[0];
  }

  /** An exception leaves every call whose frame does not catch it: V8 tells where it stands, not where it is caught, so it is noted until the call ends otherwise. */
  #threw(pause: Pause, depth: number, atMs: number): Promise<void> {
    this.#leave(pause.callFrames, depth);
    const open = this.#openOn(pause.callFrames, depth);
    const thrown = v.safeParse(Remote, pause.data);
    if (open && thrown.success)
      this.#note(open, atMs, { how: 'threw', value: describe('error', thrown.output) });
    return Promise.resolve();
  }

  /** Calls that are not on the stack any more have ended, by what they threw. */
  #leave(frames: Pause['callFrames'], depth: number): void {
    if (this.#isAsync) return;
    this.#open.splice(0, Infinity, ...this.#open.filter((open) => this.#standsOn(frames, depth, open)));
  }

  /** The innermost call under way that stands on a stack: what is thrown elsewhere meanwhile is not its own. */
  #openOn(frames: Pause['callFrames'], depth: number): OpenCall | undefined {
    if (this.#isAsync)
      return this.#open.length === 1 && frames.some((frame) => this.#isOfFunction(frame))
        ? this.#open[0]
        : undefined;
    return this.#open.findLast((open) => this.#standsOn(frames, depth, open));
  }

  #standsOn(frames: Pause['callFrames'], depth: number, open: OpenCall): boolean {
    return open.depth <= depth && this.#isOfFunction(frames[depth - open.depth]);
  }

  #isOfFunction(frame: Pause['callFrames'][number] | undefined): boolean {
    return frame !== undefined && functionOf(frame) === this.#function;
  }

  #note({ call, enteredMs, pausedBefore }: OpenCall, atMs: number, result: ObservedCall['result']): void {
    call.result = result;
    // The pause that tells of its end has only begun.
    call.tookMs = Math.max(0, atMs - enteredMs - (this.observed.pausedMs - pausedBefore));
  }

  async #argumentsOf({ scopeChain }: Pause['callFrames'][number]): Promise<ObservedValue[]> {
    const local = scopeChain.find(({ type }) => type === 'local');
    if (!local?.object.objectId) return [];
    // At the first statement only what was given has a value.
    return (await this.#membersOf(local.object.objectId))
      .filter(({ value }) => value.type !== 'undefined')
      .slice(0, MAX_ARGUMENTS)
      .map(({ name, value }) => ({
        name: wellFormed(cutText(name, 100)),
        value: describe(name, value)
      }));
  }

  #placeWords({ functionName, location }: Pause['callFrames'][number]): string {
    const url = this.#urls.get(location.scriptId) ?? '';
    const file = url.slice(Math.max(url.lastIndexOf('/'), url.lastIndexOf('\\')) + 1);
    const place = file ? ` ${file}:${location.lineNumber + 1}` : '';
    return wellFormed(cutText(`${functionName || '(anonymous)'}${place}`, MAX_VALUE));
  }

  async #ask(method: string, params: object): Promise<unknown> {
    return JSON.parse(await this.#inspector.send(method, params, ANSWER_MS));
  }
}

/** The one script that a file is: by its address, or the only one that ends with its last two parts, as files lie elsewhere on other machines. */
function scriptOf(urls: ReadonlyMap<string, string>, file: string): string | null {
  const scripts = [...urls];
  const exact = scripts.findLast(([, url]) => url === file);
  if (exact) return exact[0];
  const parts = file.split(/[\\/]/).slice(-2).join('/');
  const alike = scripts.filter(([, url]) => url.endsWith(`/${parts}`));
  return alike.length === 1 ? alike[0][0] : null;
}

/** What tells a frame's function from others. */
const functionOf = ({ functionName, functionLocation: at }: Pause['callFrames'][number]): string =>
  at ? `${at.scriptId} ${at.lineNumber} ${at.columnNumber}` : functionName;
