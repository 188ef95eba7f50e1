<?php
namespace Haven\Berths;
class BerthTaken extends \RuntimeException {}
class PlanFailed extends \RuntimeException {}
class Plan {
  function reserve($berth, $until) { throw new BerthTaken("berth $berth is taken until $until"); }
  function swap($berth, $until) { throw new BerthTaken("berth $berth is taken until $until"); }
  function check($window) { throw new BerthTaken("the window $window begins in the past"); }
  function release($berth, $until) { throw new \InvalidArgumentException("berth $berth is taken until $until"); }
  function lookUp($quays, $id) { return $quays[$id]->name(); }
  function readManifest($text) { return json_decode($text, false, 512, JSON_THROW_ON_ERROR); }
  function planAll($call) { try { $this->reserve($call, '06:10'); } catch (BerthTaken $cause) { throw new PlanFailed("cannot plan call $call", 0, $cause); } }
  function planOne($call) { try { $this->swap($call, '06:10'); } catch (BerthTaken $cause) { throw new PlanFailed("cannot plan call $call", 0, $cause); } }
  function rank($calls) { return array_map(function ($t) { if ($t < 0) throw new \InvalidArgumentException("a call has $t tonnes"); return $t; }, $calls); }
  function viaBoard($work, $v) { return $work($v); }
  function viaPlan($work, $v) { return array_map($work, [$v]); }
}
error_reporting(0);
$variant = (int) $argv[1];
$plan = new Plan();
$cases = [
  'taken' => fn($v) => $plan->reserve(12 + $v, "0$v:30"), 'swapped' => fn($v) => $plan->swap(12 + $v, "0$v:30"), 'past' => fn($v) => $plan->check("2026-03-0" . ($v + 1) . "T06:00Z"),
  'otherType' => fn($v) => $plan->release(12 + $v, "0$v:30"), 'missing' => fn($v) => $plan->lookUp([], "quay-$v"), 'parsing' => fn($v) => $plan->readManifest(str_repeat('{oops', $v + 1)),
  'wrapped' => fn($v) => $plan->planAll(3120 + $v), 'wrappedOther' => fn($v) => $plan->planOne(3120 + $v), 'lambda' => fn($v) => $plan->rank([-$v - 1]),
];
/** Frames as the OpenTelemetry SDK for PHP writes them: like the JVM's, with dots for separators. */
function formatted(\Throwable $error): string {
  $dots = fn($name) => str_replace('\\', '.', $name);
  $text = '';
  for ($e = $error; $e; $e = $e->getPrevious()) {
    $text .= ($e === $error ? '' : "\nCaused by: ") . $dots(get_class($e)) . ': ' . $e->getMessage();
    $file = $e->getFile();
    $line = $e->getLine();
    foreach ([...$e->getTrace(), ['function' => '{main}']] as $frame) {
      $text .= "\n\tat " . $dots(isset($frame['class']) ? $frame['class'] . '.' . $frame['function'] : $frame['function']) . '(' . ($file ? basename($file) . ":$line" : 'Unknown Source') . ')';
      $file = $frame['file'] ?? null;
      $line = $frame['line'] ?? 0;
    }
  }
  return $text;
}
foreach ($cases as $label => $work) {
  try { $variant % 2 ? $plan->viaPlan($work, $variant) : $plan->viaBoard($work, $variant); }
  catch (\Throwable $error) {
    echo json_encode(['php', $label, $variant, get_class($error), $error->getMessage(), formatted($error)]), "\n";
    echo json_encode(['php’s own form', $label, $variant, get_class($error), $error->getMessage(), (string) $error]), "\n";
  }
}
