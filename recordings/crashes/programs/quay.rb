class QuayFull < StandardError; end
def visit(n) = visit(n + 1) + 1
def moor(n)
  Integer('x')
rescue ArgumentError
  raise QuayFull, "quay #{n} is full"
end
ARGV[0] == 'deep' ? visit(0) : moor(4)
