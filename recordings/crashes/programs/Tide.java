import java.util.*;
public class Tide {
  static List<double[]> kept = new ArrayList<>();
  static int visit(int n){ return visit(n+1)+1; }
  static void fill(){ for(;;) kept.add(new double[100000]); }
  static void predict(String gauge){ try { Integer.parseInt(gauge); } catch (NumberFormatException e) { throw new IllegalStateException("gauge "+gauge+" is not read", e); } }
  static void crash() throws Exception { var f=sun.misc.Unsafe.class.getDeclaredField("theUnsafe"); f.setAccessible(true); ((sun.misc.Unsafe)f.get(null)).putAddress(0,0); }
  public static void main(String[] a) throws Exception { switch(a[0]){ case "throw": predict("north-9"); case "deep": visit(0); case "oom": fill(); case "crash": crash(); case "pool": new Thread(() -> predict("x"), "tide-1").start(); } }
}
