const kept = [];
function keep() {
  for (;;) kept.push(new Array(1000).fill(kept.length + 0.5));
}
setTimeout(keep, 20);
