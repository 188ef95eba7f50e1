package haven.berths;
import java.io.*;
import java.util.*;
public class Plan {
  static class BerthTaken extends RuntimeException { BerthTaken(String m) { super(m); } }
  static class PlanFailed extends RuntimeException { PlanFailed(String m, Throwable c) { super(m, c); } }
  static void reserve(int berth, String until) { throw new BerthTaken("berth " + berth + " is taken until " + until); }
  static void swap(int berth, String until) { throw new BerthTaken("berth " + berth + " is taken until " + until); }
  static void check(String window) { throw new BerthTaken("the window " + window + " begins in the past"); }
  static void release(int berth, String until) { throw new IllegalStateException("berth " + berth + " is taken until " + until); }
  static String lookUp(Map<String, String> quays, String id) { return quays.get(id).trim(); }
  static int readManifest(String text) { return Integer.parseInt(text); }
  static void planAll(int call) { try { reserve(call, "06:10"); } catch (BerthTaken c) { throw new PlanFailed("cannot plan call " + call, c); } }
  static void planOne(int call) { try { swap(call, "06:10"); } catch (BerthTaken c) { throw new PlanFailed("cannot plan call " + call, c); } }
  static int even(int n) { return odd(n - 1) + 1; }
  static int odd(int n) { return even(n - 1) + 1; }
  static void rank(List<Integer> tonnes) { tonnes.stream().map(t -> { if (t < 0) throw new IllegalArgumentException("a call has " + t + " tonnes"); return t; }).toList(); }
  static class Crane implements AutoCloseable { final int n; Crane(int n) { this.n = n; } public void close() { throw new IllegalStateException("crane " + n + " does not close"); } }
  static void lift(int n) { try (Crane crane = new Crane(n)) { throw new BerthTaken("crane " + n + " is taken"); } }
  interface Work { void run(int v); }
  static void viaBoard(Work work, int v) { work.run(v); }
  static void viaPlan(Work work, int v) { List.of(0).forEach(x -> work.run(v)); }
  static String quoted(String s) {
    StringBuilder b = new StringBuilder("\"");
    for (char c : s.toCharArray()) { if (c == '"' || c == '\\') b.append('\\').append(c); else if (c < 32) b.append(String.format("\\u%04x", (int) c)); else b.append(c); }
    return b.append('"').toString();
  }
  public static void main(String[] args) {
    int variant = Integer.parseInt(args[0]);
    Map<String, Work> cases = new LinkedHashMap<>();
    cases.put("taken", v -> reserve(12 + v, "0" + v + ":30"));
    cases.put("swapped", v -> swap(12 + v, "0" + v + ":30"));
    cases.put("past", v -> check("2026-03-0" + (v + 1) + "T06:00Z"));
    cases.put("otherType", v -> release(12 + v, "0" + v + ":30"));
    cases.put("missing", v -> lookUp(Map.of(), "quay-" + v));
    cases.put("parsing", v -> readManifest("twelve" + v));
    cases.put("wrapped", v -> planAll(3120 + v));
    cases.put("wrappedOther", v -> planOne(3120 + v));
    cases.put("recursion", v -> even(v));
    cases.put("lambda", v -> rank(List.of(-v - 1)));
    cases.put("suppressed", v -> lift(v));
    for (var entry : cases.entrySet()) {
      try { Work work = entry.getValue(); if (variant % 2 == 1) viaPlan(work, variant); else viaBoard(work, variant); }
      catch (Throwable error) {
        StringWriter out = new StringWriter();
        error.printStackTrace(new PrintWriter(out));
        System.out.println("[\"jvm\"," + quoted(entry.getKey()) + "," + variant + "," + quoted(error.getClass().getName()) + "," + quoted(String.valueOf(error.getMessage())) + "," + quoted(out.toString()) + "]");
      }
    }
  }
}
