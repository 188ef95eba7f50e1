import java.lang.ref.SoftReference;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.Map;

/**
 * Objects of many kinds, whose classes the JVM counts itself. Recorded on a JDK 17 with
 * `java -Xshare:off -cp . Counted`, then `jcmd PID GC.run`, `jcmd PID GC.class_histogram` and `jcmd PID GC.heap_dump counted.hprof`: without its archive of
 * classes the machine has no mirrors of classes that it has not loaded, which its histogram counts and a dump leaves out.
 */
public class Counted {
  static final Map<String, Object> KEPT = new HashMap<>();

  public static void main(String[] args) throws Exception {
    for (int i = 0; i < 1000; i++) KEPT.put("berth " + i, new int[i % 10]);
    for (Class<?> one : new Class<?>[] {int.class, void.class, String[][].class}) KEPT.put(one.getName(), one);
    Runnable hidden = () -> System.out.println(KEPT.size());
    KEPT.put("hidden class", hidden);
    KEPT.put("soft", new SoftReference<>(new long[5]));
    KEPT.put("names", EnumSet.allOf(Thread.State.class));
    System.out.println("ready");
    Thread.sleep(1_000_000);
  }
}
