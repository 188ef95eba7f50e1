import com.sun.management.HotSpotDiagnosticMXBean;
import java.lang.management.ManagementFactory;
import java.util.*;

/** Holders of several kinds, each of which keeps a good part of the heap; which one, the argument says. Writes a dump of its live objects. */
public class Crates {
  static final class SpokePart { SpokePart next; long weight; SpokePart(SpokePart next, long weight) { this.next = next; this.weight = weight; } }
  static final class Crate { SpokePart head; }
  static final class Manifest { final long[] lines = new long[40]; String note = "manifest"; }
  static final List<Manifest> LOADED = new ArrayList<>();
  static final Map<Integer, List<Manifest>> BY_QUAY = new HashMap<>();
  static final Manifest[][] GRID = new Manifest[10][];
  static final Crate CRATE = new Crate();

  public static void main(String[] args) throws Exception {
    int size = Integer.parseInt(args[1]);
    switch (args[0]) {
      case "list" -> { for (int i = 0; i < size; i++) LOADED.add(new Manifest()); }
      case "map" -> { for (int i = 0; i < size; i++) BY_QUAY.computeIfAbsent(i % 50, quay -> new ArrayList<>()).add(new Manifest()); }
      case "grid" -> { for (int row = 0; row < 10; row++) { GRID[row] = new Manifest[size / 10]; for (int i = 0; i < size / 10; i++) GRID[row][i] = new Manifest(); } }
      case "chain" -> { for (int i = 0; i < size; i++) CRATE.head = new SpokePart(CRATE.head, i); }
      case "thread" -> {
        Thread berth = new Thread(() -> {
          List<Manifest> mine = new ArrayList<>();
          for (int i = 0; i < size; i++) mine.add(new Manifest());
          synchronized (CRATE) { CRATE.notifyAll(); }
          try { Thread.sleep(60_000); } catch (InterruptedException stop) { mine.clear(); }
          System.out.println(mine.size());
        }, "berth-worker-1");
        berth.setDaemon(true);
        synchronized (CRATE) { berth.start(); CRATE.wait(); }
      }
      default -> { }
    }
    ManagementFactory.getPlatformMXBean(HotSpotDiagnosticMXBean.class).dumpHeap(args[2], true);
  }
}
