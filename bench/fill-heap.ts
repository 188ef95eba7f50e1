import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';

const JAVASCRIPT = `
  class Window { constructor(i) { this.hour = i; this.name = 'window ' + i; this.next = null; this.parts = [{ i }, { i }]; } }
  const kept = new Map(); let last = null;
  for (let i = 0; i < Number(process.argv[2]); i++) { const one = new Window(i); one.next = last; last = one; kept.set(i, one); }
  require('node:v8').writeHeapSnapshot(process.argv[1]); globalThis.kept = kept;`;

/** A snapshot of a Node process that keeps so many windows. */
export function snapshotDump(to: string, windows: number): string {
  execFileSync(process.execPath, ['--max-old-space-size=8192', '-e', JAVASCRIPT, to, String(windows)]);
  return to;
}

const JAVA = `
import com.sun.management.HotSpotDiagnosticMXBean; import java.lang.management.ManagementFactory; import java.util.*;
public class Fill { static class Window { int hour; String name; double[] heights; Window next; }
  static final Map<Integer, Window> KEPT = new HashMap<>();
  public static void main(String[] a) throws Exception { Window last = null;
    for (int i = 0; i < Integer.parseInt(a[1]); i++) { Window w = new Window(); w.hour = i; w.name = "window " + i; w.heights = new double[8]; w.next = last; last = w; KEPT.put(i, w); }
    ManagementFactory.newPlatformMXBeanProxy(ManagementFactory.getPlatformMBeanServer(), "com.sun.management:type=HotSpotDiagnostic", HotSpotDiagnosticMXBean.class).dumpHeap(a[0], true); } }`;

/** A dump of a JVM that keeps so many windows. */
export function javaDump(folder: string, windows: number): string {
  const source = path.join(folder, 'Fill.java');
  const to = path.join(folder, 'fill.hprof');
  writeFileSync(source, JAVA);
  execFileSync('javac', ['-d', folder, source]);
  execFileSync('java', ['-Xmx3g', '-cp', folder, 'Fill', to, String(windows)]);
  return to;
}
