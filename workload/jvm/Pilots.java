package quillhaven.pilots;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadFactory;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * The pilots' roster of Quillhaven on a JVM, for the demo's thread dumps. Its fault: the roster is written to a socket
 * while the ledger's lock is held, and the other end does not read. Start it, wait three seconds, and send SIGQUIT three
 * times, five seconds apart: `java -cp . quillhaven.pilots.Pilots`.
 */
public class Pilots {
  static class PilotLedger {}
  static class BerthBoard {}

  static final PilotLedger LEDGER = new PilotLedger();
  static final BerthBoard BOARD = new BerthBoard();
  static final LinkedBlockingQueue<Runnable> MAIL = new LinkedBlockingQueue<>();

  static ThreadFactory named(String prefix) {
    AtomicInteger next = new AtomicInteger(1);
    return work -> {
      Thread thread = new Thread(work, prefix + next.getAndIncrement());
      thread.setDaemon(true);
      return thread;
    };
  }

  public static void main(String[] arguments) throws Exception {
    ServerSocket far = new ServerSocket(0, 5, InetAddress.getLoopbackAddress());
    Socket near = new Socket(far.getInetAddress(), far.getLocalPort());
    Socket unread = far.accept();
    named("http-acceptor-").newThread(() -> Http.accept(far)).start();
    named("event-loop-").newThread(Http::poll).start();
    for (int i = 0; i < 6; i++) named("poller-" + i + "-").newThread(Poller::pause).start();
    for (int i = 0; i < 8; i++) named("mailbox-" + i + "-").newThread(Mailbox::next).start();
    ExecutorService harmonics = Executors.newFixedThreadPool(3, named("harmonics-"));
    for (int i = 0; i < 3; i++) harmonics.submit(Tide::harmonicSum);
    ExecutorService reports = Executors.newFixedThreadPool(5, named("report-"));
    for (int i = 0; i < 5; i++) reports.submit(() -> {});
    ExecutorService http = Executors.newFixedThreadPool(16, named("http-worker-"));
    for (int i = 0; i < 9; i++) http.submit(Http::entry);
    Thread.sleep(300);
    named("roster-sync-").newThread(() -> RosterSync.push(near)).start();
    Thread.sleep(300);
    named("tide-listener-").newThread(TideListener::heard).start();
    named("shift-planner-").newThread(Http::entry).start();
    Thread.sleep(4000);
    for (int i = 0; i < 5; i++) http.submit(Http::board);
    Thread.sleep(30_000);
    unread.close();
  }

  static class RosterSync {
    /** Holds the ledger while it writes to an end that does not read. */
    static void push(Socket socket) {
      synchronized (LEDGER) {
        try {
          post(socket);
        } catch (IOException gone) {
          Thread.currentThread().interrupt();
        }
      }
    }

    static void post(Socket socket) throws IOException {
      byte[] roster = new byte[1 << 20];
      while (true) socket.getOutputStream().write(roster);
    }
  }

  static class TideListener {
    static void heard() {
      synchronized (BOARD) {
        Http.entry();
      }
    }
  }

  static class Http {
    static void entry() {
      while (true) {
        synchronized (LEDGER) {
          Tide.step();
        }
        rest(40);
      }
    }

    static void board() {
      synchronized (BOARD) {
        Tide.step();
      }
    }

    static void accept(ServerSocket server) {
      try {
        while (true) server.accept();
      } catch (IOException gone) {
        Thread.currentThread().interrupt();
      }
    }

    static void poll() {
      try (var selector = java.nio.channels.Selector.open()) {
        while (true) selector.select();
      } catch (IOException gone) {
        Thread.currentThread().interrupt();
      }
    }
  }

  static class Poller {
    static void pause() {
      while (true) rest(2000);
    }
  }

  static class Mailbox {

    static void next() {
      try {
        while (true) MAIL.take().run();
      } catch (InterruptedException gone) {
        Thread.currentThread().interrupt();
      }
    }
  }

  static class Tide {
    static volatile double height;

    static void step() {
      for (int i = 1; i < 1000; i++) height += Math.sin(i);
    }

    static void harmonicSum() {
      for (long i = 1; ; i++) height += Math.sin(i * 0.01) / i;
    }
  }

  static void rest(long milliseconds) {
    try {
      Thread.sleep(milliseconds);
    } catch (InterruptedException gone) {
      Thread.currentThread().interrupt();
    }
  }
}
