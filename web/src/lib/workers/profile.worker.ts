import { expose, transfer } from 'comlink';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import type { ProfileFinding } from '@tromix/core/findings/profile-finding';
import type { SourceLine } from '@tromix/core/findings/source-line';
import { findInProfile } from '@tromix/core/findings/profile-findings';
import { functionSinceRelease, type FoundSinceRelease } from '@tromix/core/findings/function-since-release';
import { busyWithin } from '@tromix/core/profile/busy-within';
import { combineProfiles } from '@tromix/core/profile/combine';
import { callersTree } from '@tromix/core/profile/callers';
import { emptyLayout, flameLayout, type FlameLayout } from '@tromix/core/profile/flame-layout';
import {
  functionWeights,
  heaviestBranch,
  maxRecursion,
  type FunctionWeight
} from '@tromix/core/profile/functions';
import { layoutInTime, layoutThreadsInTime } from '@tromix/core/profile/in-time';
import { fileLines, fileWeights, type FileLines, type FileWeight } from '@tromix/core/profile/lines';
import type { Frame, Profile, StackTree } from '@tromix/core/profile/model';
import { neighboursOf, type Neighbours } from '@tromix/core/profile/neighbours';
import { packageWeights, type PackageWeight } from '@tromix/core/profile/packages';
import { writeProtobufProfile } from '@tromix/core/profile/protobuf/write';
import { samplesIn } from '@tromix/core/profile/selected-samples';
import { applySourceMaps } from '@tromix/core/profile/source-map';
import { shape, type ShapedTree, type Shaping } from '@tromix/core/profile/shape';
import { labelPortions, threadPortions, type Portion } from '@tromix/core/profile/portions';
import { slice, type SampleSelection, type Slice } from '@tromix/core/profile/slice';
import {
  functionOver,
  sumScope,
  type FunctionOfEndpoint,
  type FunctionPoint,
  type ScopeSums
} from '@tromix/core/profile/sums/scope-sums';
import { cpuStrip, originsOverTime, type OriginsOverTime } from '@tromix/core/profile/strip';
import {
  closedScale,
  evenScale,
  type ClosedStretch,
  type ScaledWindow,
  type TimeScale
} from '@tromix/core/profile/time-scale';
import type { SumsHead } from '$lib/profile-sums';
import type { Show } from '$lib/ui/profile/shows';
import { writeFolded, writeV8CpuProfile } from '@tromix/core/profile/write';
import { fetchedLines, sourceMaps } from './fetch-sources';
import { sourceLines } from './hot-lines';
import { fetchSums, type FetchedSums } from './fetch-sums';
import { loadProfile } from './load-profile';

/** One file of a profile. */
export interface ProfilePart {
  url: string;
  /** What its threads are called where there are several files. */
  name: string;
  /** Where it begins on the common time axis. */
  offsetNs: number;
}

export interface OpenedProfile {
  valueType: Profile['valueType'];
  unit: Profile['unit'];
  measure?: string;
  /** What was measured and can be weighed instead; fewer than two where there is no choice. */
  measures: string[];
  frames: Frame[];
  threads: Portion[];
  labels: { key: string; values: Portion[] }[];
  deepest: Int32Array;
  durationNs: number;
  /** How long was recorded where samples have no times; 0 where that is not told. */
  recordedNs: number;
  samples: number;
  /** How often each function was called, where that was counted. */
  calls?: Float64Array;
  /** Functions at the places at which they run, where source maps moved them. */
  recorded: Frame[] | null;
  strip: Float32Array;
  warnings: Warning[];
}

/** The recordings of a scope, opened as one profile. */
export interface OpenedSums extends OpenedProfile {
  sums: Omit<ScopeSums, 'profile'> &
    Pick<SumsHead, 'releases' | 'endpoints' | 'valueTypes' | 'fromUs' | 'toUs'> & {
      /** How much of the recordings is in it: 1 for all. */
      part: number;
    };
  /** Functions that became slower with a release; of one endpoint alone. */
  sinceRelease: FoundSinceRelease[];
}

export interface ViewRequest {
  show: Show;
  selection: SampleSelection;
  shaping: Shaping;
  /** Function the callers or neighbours are asked for; −1 for none. */
  frame: number;
  /** File whose lines are asked for; '' for the heaviest. */
  file: string;
  /** Picture in time order: the stretch in view, as parts of the selection, and pixels across. */
  zoom: { from: number; to: number };
  pixels: number;
  /** Long idle stretches are as wide as they are long, too. */
  isEven?: boolean;
  /** The selection is still moving: what is read afterwards, not looked at meanwhile, is left out. */
  moving: boolean;
}

/** Every view of one selection. */
export interface ProfileView extends Pick<StackTree, 'nodeFrame' | 'nodeParent'> {
  show: Show;
  layout: FlameLayout;
  /** In time order: some samples share a pixel and are not shown. */
  thinned: boolean;
  /** In time order: the rows in which each thread's name stands; none where there is one thread. */
  bands: { row: number; name: string }[];
  /** In time order: idle stretches that are closed up. */
  closed: ClosedStretch[];
  self: Float64Array;
  total: Float64Array;
  sum: number;
  idle: number;
  samples: number;
  /** Of the stacks after shaping. */
  functions: FunctionWeight[];
  heaviest: number[];
  packages: PackageWeight[];
  findings: ProfileFinding[];
  neighbours: Neighbours | null;
  files: FileWeight[];
  file: string;
  lines: FileLines | null;
  /** Weight read from the leaves that was too light to be opened. */
  unopened: number;
  /** Time this took in the worker, milliseconds. */
  tookMs: number;
}

let profile: Profile | undefined;
/** Texts that source maps carried, by file. */
let texts = new Map<string, string>();
/** Text of the lines at which many samples are. */
let sourceLine: SourceLine = () => null;
/** What the profile that is open was made of, where it is the sum of recordings: with the shares of endpoints, and where those are to be had. */
let ofShares: Promise<FetchedSums> | undefined;
let sharesUrl = '';
/** So long a sum grows before it is shown again. */
const PART_MS = 600;
/** Frames as they were recorded, where source maps moved them. */
let recordedFrames: Frame[] | null = null;
let shaped: { key: string; tree: ShapedTree } | undefined;

function opened(): Profile {
  if (!profile) throw new Error('No profile is open.');
  return profile;
}

/** The stacks after shaping: worked out anew only when the acts change, not with each move of the selection. */
function treeFor(shaping: Shaping): ShapedTree {
  const key = JSON.stringify(shaping);
  if (shaped?.key !== key) shaped = { key, tree: shape(opened(), shaping) };
  return shaped.tree;
}

interface Opening {
  stripBins: number;
  /** Whether source folders are configured, where source maps may lie. */
  hasSources: boolean;
  /** What weighs, of several things that were measured; '' for the file's default. */
  measure: string;
}

/** Parses and weighs off the page's main thread: a thin shell over core. */
const service = {
  /** Opens one file, or several as one profile. */
  async open(
    parts: readonly ProfilePart[],
    { stripBins, hasSources, measure }: Opening
  ): Promise<OpenedProfile | { error: string }> {
    try {
      const read = await Promise.all(
        parts.map(async ({ url, name, offsetNs }) => ({
          name,
          offsetNs,
          ...(await loadProfile(url, measure))
        }))
      );
      const { whole, warnings } = await openWhole(combineProfiles(read), hasSources);
      return describe(
        whole,
        stripBins,
        [...read.flatMap((part) => part.warnings), ...warnings],
        read[0].measures
      );
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  /**
   * Opens the recordings of a scope as one.
   * @param onpart given what there is so far, where the whole takes a while: the first picture does not wait for it
   */
  async openSums(
    url: string,
    { stripBins, hasSources }: Omit<Opening, 'measure'>,
    onpart: (part: OpenedSums) => void
  ): Promise<OpenedSums> {
    let shownMs = -Infinity;
    let maps: Promise<ReadonlyMap<string, string>> | undefined;
    const openedOf = async (fetched: FetchedSums): Promise<OpenedSums> => {
      maps ??= hasSources ? sourceMaps(fetched.dictionary) : Promise.resolve(new Map());
      return describeSums(fetched, stripBins, await maps, hasSources);
    };
    const whole = await fetchSums(url, async (fetched) => {
      if (performance.now() - shownMs < PART_MS) return;
      onpart(await openedOf(fetched));
      shownMs = performance.now();
    });
    ofShares = whole.head.ofEndpoint ? Promise.resolve(whole) : undefined;
    sharesUrl = `${url}&shares=1`;
    return openedOf(whole);
  },

  /** A function over the time and the endpoints of the recordings that are open as one. */
  async functionOver(frame: number): Promise<{ points: FunctionPoint[]; endpoints: FunctionOfEndpoint[] }> {
    // Shares of endpoints are as many bytes as all else, and asked for when they are looked at.
    ofShares ??= fetchSums(sharesUrl);
    const { dictionary, slices, head } = await ofShares;
    // Source maps rename functions, and leave their places in the list as they are.
    return functionOver(dictionary, slices, head.ofEndpoint, frame);
  },

  /** Takes a profile that was made of something else. */
  take(made: Profile, stripBins: number): OpenedProfile {
    profile = made;
    recordedFrames = null;
    texts = new Map();
    sourceLine = () => null;
    shaped = undefined;
    return describe(made, stripBins, []);
  },

  view(request: ViewRequest): ProfileView {
    const begun = performance.now();
    const whole = opened();
    const tree = treeFor(request.shaping);
    const weights = slice(whole, request.selection, tree);
    const picture = pictureOf(whole, tree, weights, request);
    const unshaped =
      request.moving || tree.nodeFrame === whole.nodeFrame ? weights : slice(whole, request.selection);
    const files = request.show === 'lines' ? fileWeights(whole, unshaped) : [];
    const file = request.file || (files.find((one) => isOwn(whole, one.file)) ?? files[0])?.file || '';
    const view: ProfileView = {
      show: request.show,
      nodeFrame: picture.tree.nodeFrame.slice(),
      nodeParent: picture.tree.nodeParent.slice(),
      layout: picture.layout,
      thinned: picture.thinned,
      bands: picture.bands,
      closed: picture.closed,
      self: picture.weights.self,
      total: picture.weights.total,
      sum: weights.sum,
      idle: weights.idle,
      samples: whole.recordedSamples ?? weights.samples,
      functions: functionWeights(whole.frames, tree, weights),
      heaviest: heaviestBranch(picture.tree, picture.weights),
      packages: request.show === 'packages' ? packageWeights(whole.frames, tree, weights) : [],
      findings: request.moving ? [] : findInProfile(whole, unshaped, sourceLine),
      neighbours:
        request.show === 'neighbours' && request.frame >= 0
          ? neighboursOf(tree, weights, request.frame)
          : null,
      files,
      file,
      lines: request.show === 'lines' && file ? fileLines(whole, unshaped, file) : null,
      unopened: picture.unopened,
      tookMs: 0
    };
    view.tookMs = performance.now() - begun;
    const { layout } = view;
    return transfer(
      view,
      [
        layout.node,
        layout.depth,
        layout.x,
        layout.width,
        layout.parent,
        view.self,
        view.total,
        view.nodeFrame,
        view.nodeParent
      ]
        .map((array) => array.buffer)
        .filter((buffer) => buffer.byteLength > 0)
    );
  },

  /** How much the process computed in each of many stretches, of one function where one is named. */
  busyWithin(stretches: Float64Array, frame = -1): Float64Array {
    return busyWithin(opened(), stretches, frame);
  },

  /** The text of a source file that came with a source map; null where none did. */
  text(file: string): string | null {
    return texts.get(file) ?? null;
  },

  /** Where the time went by origin of code, over the whole recording. */
  origins(bins: number, thread: number): OriginsOverTime {
    return originsOverTime(opened(), bins, { thread });
  },

  /** The selection as an open format. */
  write(format: 'folded' | 'cpuprofile', selection: SampleSelection, shaping: Shaping): string {
    const whole = opened();
    const tree = treeFor(shaping);
    if (format === 'folded')
      return writeFolded(whole.frames, tree, slice(whole, selection, tree), whole.unit);
    return writeV8CpuProfile(whole.frames, tree, samplesIn(whole, selection, tree));
  },

  /** The selection as a protobuf profile, gzipped. @param startedAtUs epoch microseconds; null where it is not known */
  async writeProtobuf(
    selection: SampleSelection,
    shaping: Shaping,
    startedAtUs: number | null
  ): Promise<Blob> {
    const whole = opened();
    const tree = treeFor(shaping);
    const written = writeProtobufProfile(whole, tree, samplesIn(whole, selection, tree), startedAtUs);
    const zipped = new Blob([new Uint8Array(written)]).stream().pipeThrough(new CompressionStream('gzip'));
    return new Response(zipped).blob();
  }
};
export type ProfileService = typeof service;

const openWhole = async (
  recorded: Profile,
  hasSources: boolean
): Promise<{ whole: Profile; warnings: Warning[] }> =>
  adopt(recorded, hasSources ? await sourceMaps(recorded) : new Map(), hasSources);

async function describeSums(
  { head, dictionary, slices }: FetchedSums,
  stripBins: number,
  maps: ReadonlyMap<string, string>,
  hasSources: boolean
): Promise<OpenedSums> {
  const { releases, endpoints, valueTypes, fromUs, toUs } = head;
  const { profile: summed, ...figures } = sumScope(dictionary, slices, head.ofEndpoint, head.valueType);
  const { whole, warnings } = await adopt(summed, maps, hasSources);
  const isWhole = slices.length === head.slices;
  return {
    ...describe(whole, stripBins, warnings),
    sums: {
      ...figures,
      releases,
      endpoints,
      valueTypes,
      fromUs,
      toUs,
      part: isWhole ? 1 : slices.length / head.slices
    },
    // Of several endpoints a change of their mix would pass for one of a function.
    sinceRelease:
      head.ofEndpoint && isWhole ? functionSinceRelease.find({ dictionary, slices, releases }) : []
  };
}

/** Makes a profile the one that is open, by the source maps there are. */
async function adopt(
  recorded: Profile,
  maps: ReadonlyMap<string, string>,
  hasSources: boolean
): Promise<{ whole: Profile; warnings: Warning[] }> {
  const mapped = applySourceMaps(recorded, maps);
  profile = mapped.profile;
  recordedFrames = profile.frames === recorded.frames ? null : recorded.frames;
  texts = mapped.sources;
  sourceLine = sourceLines(texts, hasSources ? await fetchedLines(profile, texts) : []);
  shaped = undefined;
  return { whole: profile, warnings: mapped.warnings };
}

const isOwn = ({ frames }: Profile, file: string): boolean =>
  frames.some((frame) => frame.file === file && frame.kind === 'app');

function describe(
  read: Profile,
  stripBins: number,
  warnings: Warning[],
  measures: string[] = []
): OpenedProfile {
  const result: OpenedProfile = {
    valueType: read.valueType,
    unit: read.unit,
    measure: read.measure,
    measures,
    frames: read.frames,
    threads: threadPortions(read),
    labels: labelPortions(read),
    deepest: maxRecursion(read.frames, read),
    durationNs: read.durationNs,
    recordedNs: read.recordedNs ?? 0,
    samples: read.recordedSamples ?? read.sampleNode.length,
    calls: read.calls,
    recorded: recordedFrames,
    strip: cpuStrip(read, stripBins),
    warnings
  };
  return transfer(result, [result.deepest.buffer, result.strip.buffer]);
}

/** Parts of the whole that are not laid out while a selection is being moved: a twentieth of a pixel. */
const LEAST_MOVING = 1 / 20_000;

interface Picture {
  tree: StackTree;
  weights: Slice;
  layout: FlameLayout;
  thinned: boolean;
  bands: ProfileView['bands'];
  closed: ClosedStretch[];
  unopened: number;
}

/** The scale that was asked for last: it stays while a picture is zoomed, and looks at every sample. */
let lastScale: { of: Profile; window: ScaledWindow; scale: TimeScale } | undefined;
function closedScaleOf(of: Profile, window: ScaledWindow): TimeScale {
  const { fromNs, toNs, thread } = window;
  const last = lastScale;
  if (
    last?.of === of &&
    last.window.fromNs === fromNs &&
    last.window.toNs === toNs &&
    last.window.thread === thread
  )
    return last.scale;
  lastScale = { of, window, scale: closedScale(of, window) };
  return lastScale.scale;
}

function pictureOf(whole: Profile, tree: ShapedTree, weights: Slice, request: ViewRequest): Picture {
  const plain = { tree, weights, thinned: false, bands: [], closed: [], unopened: 0 };
  if (request.show === 'leaves') {
    const callers = callersTree(tree, weights, request.frame);
    return {
      ...plain,
      tree: callers,
      weights: callers.weights,
      layout: flameLayout(callers, callers.weights),
      unopened: callers.unopened
    };
  }
  if (request.show === 'time') {
    const { spans, thread, includeIdle } = request.selection;
    const [from, to] = spans
      ? [spans[0], Math.min(spans[spans.length - 1], whole.durationNs)]
      : [0, whole.durationNs];
    const { zoom, pixels, isEven } = request;
    const window = { fromNs: from, toNs: to, thread };
    const scale = isEven || includeIdle ? evenScale(window) : closedScaleOf(whole, window);
    const inView = { fromNs: scale.timeAt(zoom.from), toNs: scale.timeAt(zoom.to) };
    const lengthNs = inView.toNs - inView.fromNs;
    const several = thread < 0 && whole.threads.length > 1;
    const { thinned, bands, ...layout } = (several ? layoutThreadsInTime : layoutInTime)(whole, tree, {
      ...inView,
      thread,
      includeIdle,
      finest: scale.nsOf((zoom.to - zoom.from) / Math.max(1, pixels)) / lengthNs
    });
    // Its boxes are parts of the time in view; the picture wants parts of the selection.
    for (let box = 0; box < layout.x.length; box++) {
      const x = scale.partAt(inView.fromNs + layout.x[box] * lengthNs);
      layout.width[box] = scale.partAt(inView.fromNs + (layout.x[box] + layout.width[box]) * lengthNs) - x;
      layout.x[box] = x;
    }
    return {
      ...plain,
      layout,
      thinned,
      closed: scale.closed,
      bands: bands.map(({ thread: of, row }) => ({ row, name: whole.threads[of] }))
    };
  }
  return {
    ...plain,
    layout:
      request.show === 'root' ? flameLayout(tree, weights, request.moving ? LEAST_MOVING : 0) : emptyLayout(0)
  };
}

expose(service);
