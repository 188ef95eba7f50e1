import json, sys, traceback
class BerthTaken(Exception): pass
class PlanFailed(Exception): pass
def reserve(berth, until): raise BerthTaken(f"berth {berth} is taken until {until}")
def swap(berth, until): raise BerthTaken(f"berth {berth} is taken until {until}")
def check(window): raise BerthTaken(f"the window {window} begins in the past")
def release(berth, until): raise ValueError(f"berth {berth} is taken until {until}")
def look_up(quays, name): return quays[name]
def read_manifest(text): return json.loads(text)
def plan_all(call):
    try: reserve(call, "06:10")
    except BerthTaken as cause: raise PlanFailed(f"cannot plan call {call}") from cause
def plan_one(call):
    try: swap(call, "06:10")
    except BerthTaken as cause: raise PlanFailed(f"cannot plan call {call}") from cause
def tidy_up(call):
    try: reserve(call, "06:10")
    except BerthTaken: raise KeyError(f"hold {call}")
def even(n): return odd(n - 1) + 1
def odd(n): return even(n - 1) + 1
def weigh(call):
    if call["tonnes"] < 0: raise ValueError(f"call {call['id']} has {call['tonnes']} tonnes")
def rank(calls): return sorted(calls, key=lambda call: weigh(call))
def group(v): raise ExceptionGroup(f"{v + 2} berths failed", [BerthTaken(f"berth {v} is taken"), ValueError(f"no crane {v}")])
def via_board(work): return work()
def via_plan(work): return [work() for _ in range(1)]
CASES = dict(
    taken=lambda v: reserve(12 + v, f"0{v}:30"), swapped=lambda v: swap(12 + v, f"0{v}:30"), past=lambda v: check(f"2026-03-0{v + 1}T06:0{v}Z"),
    otherType=lambda v: release(12 + v, f"0{v}:30"), missing=lambda v: look_up({}, f"quay-{v}"), parsing=lambda v: read_manifest("[" + "1," * (v + 1)),
    wrapped=lambda v: plan_all(3120 + v), wrappedOther=lambda v: plan_one(3120 + v), whileHandling=lambda v: tidy_up(3120 + v),
    recursion=lambda v: even(v), lambda_=lambda v: rank([{"id": v, "tonnes": -v - 1}]), group=lambda v: group(v))
def run(variant):
    for label, work in CASES.items():
        try: (via_plan if variant % 2 else via_board)(lambda: work(variant))
        except BaseException as error:
            name = type(error).__qualname__ if type(error).__module__ in ("builtins", "__main__") else f"{type(error).__module__}.{type(error).__qualname__}"
            print(json.dumps(["python", label, variant, name, str(error), "".join(traceback.format_exception(type(error), error, error.__traceback__))]))
