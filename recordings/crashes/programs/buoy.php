<?php
class BuoyLost extends Exception {}
function light(int $n) { throw new BuoyLost("buoy $n is dark", 0, new TypeError('no lamp')); }
function fill() { ini_set('memory_limit', '8M'); $kept = []; for (;;) $kept[] = str_repeat('x', 100000); }
$argv[1] === 'oom' ? fill() : light(9);
