/** Dies of an exception nobody catches, and leaves a diagnostic report. */
function moor(vessel) {
  return vessel.berth.number;
}
function plan(calls) {
  return calls.map((call) => moor(call));
}
setTimeout(() => plan([{ name: 'north' }]), 20);
