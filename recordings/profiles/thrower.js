// Exceptions as control flow, of which V8 shows no frame: `node --cpu-prof --cpu-prof-name=thrower.cpuprofile thrower.js`.
function parse(text) {
  if (text.length % 2 === 0) {
    throw new Error('odd lengths only');
  }
  return text.length;
}
function tryParse(text) {
  try {
    return parse(text);
  } catch {
    return -1;
  }
}
class StampError extends Error {}
function stamp(number) {
  if (number % 3) throw new StampError('no stamp');
  return number;
}
let sum = 0;
const end = Date.now() + 1000;
while (Date.now() < end) {
  for (let i = 0; i < 400; i++) sum += tryParse('ab' + 'x'.repeat(i % 3));
  for (let i = 0; i < 100; i++) {
    try {
      sum += stamp(i);
    } catch {
      sum--;
    }
  }
}
console.log(sum);
