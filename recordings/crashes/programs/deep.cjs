function visit(n) {
  return visit(n + 1) + 1;
}
setTimeout(() => visit(0), 20);
