class BerthTaken extends Error {
  get name() {
    return 'BerthTaken';
  }
}
class PlanFailed extends Error {
  get name() {
    return 'PlanFailed';
  }
}
function reserve(berth, until) {
  throw new BerthTaken(`berth ${berth} is taken until ${until}`);
}
function swap(berth, until) {
  throw new BerthTaken(`berth ${berth} is taken until ${until}`);
}
function check(window) {
  throw new BerthTaken(`the window ${window} begins in the past`);
}
function release(berth, until) {
  throw new RangeError(`berth ${berth} is taken until ${until}`);
}
function lookUp(quays, id) {
  return quays[id].name;
}
function readManifest(text) {
  return JSON.parse(text);
}
function planAll(call) {
  try {
    reserve(call, '06:10');
  } catch (cause) {
    throw new PlanFailed(`cannot plan call ${call}`, { cause });
  }
}
function planOne(call) {
  try {
    swap(call, '06:10');
  } catch (cause) {
    throw new PlanFailed(`cannot plan call ${call}`, { cause });
  }
}
function even(n) {
  return n === 0 ? odd(n) + 1 : odd(n - 1) + 1;
}
function odd(n) {
  return n === 0 ? even(n) + 1 : even(n - 1) + 1;
}
const rank = (calls) =>
  calls.map((call) => {
    if (call.tonnes < 0) throw new RangeError(`call ${call.id} has ${call.tonnes} tonnes`);
    return call;
  });
async function fetchTide(url) {
  await null;
  throw new TypeError(`no tide from ${url}`);
}
class Quay {
  static open(name) {
    return new Quay(name);
  }
  constructor(name) {
    if (!/^[a-z]+$/.test(name)) throw new TypeError(`quay "${name}" has no good name`);
  }
}
function viaBoard(work) {
  return work();
}
function viaPlan(work) {
  return [0].map(() => work())[0];
}
const CASES = {
  taken: (v) => reserve(12 + v, `0${v}:30`),
  swapped: (v) => swap(12 + v, `0${v}:30`),
  past: (v) => check(`2026-03-0${v + 1}T06:0${v}Z`),
  otherType: (v) => release(12 + v, `0${v}:30`),
  missing: (v) => lookUp({}, `quay-${v}`),
  parsing: (v) => readManifest(['{oops', 'nothing', '{"a":', '[1,,2]'][0].repeat(v + 1)),
  wrapped: (v) => planAll(3120 + v),
  wrappedOther: (v) => planOne(3120 + v),
  recursion: (v) => even(v),
  lambda: (v) => rank([{ id: v, tonnes: -v - 1 }]),
  awaited: (v) => fetchTide(`http://10.0.0.${v}:47403/tides/window?station=${v}`),
  constructed: (v) => Quay.open(`west ${v}`)
};
/** Every case, by one way or the other. Each is told as the OpenTelemetry SDK for JavaScript tells it: code or name, message, stack. */
export async function run(variant, say) {
  for (const [label, work] of Object.entries(CASES)) {
    try {
      await (variant % 2 ? viaPlan : viaBoard)(() => work(variant));
    } catch (error) {
      say(
        label,
        String(error.code ?? error.name),
        error.message,
        error.cause ? `${error.stack}\nCaused by: ${error.cause.stack}` : error.stack
      );
    }
  }
}
