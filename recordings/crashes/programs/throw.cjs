class BerthTaken extends Error {
  constructor(m, o) {
    super(m, o);
    this.name = 'BerthTaken';
  }
}
function reserve(n) {
  throw new BerthTaken(`berth ${n} is taken`, { cause: new TypeError('no line') });
}
setTimeout(() => reserve(3), 20);
