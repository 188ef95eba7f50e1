package main
import ("os";"fmt")
type Tug struct{ line *int }
func visit(n int) int { var b [1000]int; b[0]=n; return visit(n+1)+b[0] }
func pull(t *Tug) int { return *t.line }
func main(){ switch os.Args[1]{ case "panic": panic(fmt.Errorf("tug %d lost its line", 4)); case "nil": pull(&Tug{}); case "deep": visit(0); case "lock": ch:=make(chan int); <-ch; case "map": m:=map[int]int{}; for i:=0;i<8;i++ { go func(){ for { m[1]++ } }() }; select{}; case "oom": os.Exit(3) } }
