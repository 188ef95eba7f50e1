// A program whose costs are known, recorded by the JVM itself and printed as JSON:
//   javac -d /tmp Tides.java
//   java -cp /tmp -XX:StartFlightRecording=filename=/tmp/tides.jfr,settings=profile Tides
//   jfr print --json --stack-depth 64 --events jdk.ExecutionSample,jdk.ObjectAllocationSample,jdk.JavaMonitorEnter /tmp/tides.jfr | gzip -9 > tides.jfr.json.gz
import java.util.*;

public class Tides {
  static final Object lock = new Object();
  static double harmonic(int n) { double sum = 0; for (int i = 1; i < n; i++) sum += Math.sin(i) / i; return sum; }
  static List<String> stamps(int n) { List<String> out = new ArrayList<>(); for (int i = 0; i < n; i++) out.add("stamp " + i); return out; }
  static void held(long ms) throws Exception { synchronized (lock) { Thread.sleep(ms); } }
  public static void main(String[] a) throws Exception {
    long until = System.currentTimeMillis() + 2000;
    Thread compute = new Thread(() -> { double s = 0; while (System.currentTimeMillis() < until) s += harmonic(20000); System.out.println(s); }, "tide-compute");
    Thread alloc = new Thread(() -> { int s = 0; while (System.currentTimeMillis() < until) s += stamps(5000).size(); System.out.println(s); }, "tide-stamps");
    Thread w1 = new Thread(() -> { try { while (System.currentTimeMillis() < until) held(40); } catch (Exception e) {} }, "gate-1");
    Thread w2 = new Thread(() -> { try { while (System.currentTimeMillis() < until) held(40); } catch (Exception e) {} }, "gate-2");
    for (Thread t : List.of(compute, alloc, w1, w2)) t.start();
    for (Thread t : List.of(compute, alloc, w1, w2)) t.join();
  }
}
