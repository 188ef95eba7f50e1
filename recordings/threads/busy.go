// Goroutines of several kinds, told by the goroutine profile with debug=1 and debug=2.
package main

import (
	"os"
	"runtime/pprof"
	"time"
)

func berth(ships chan int) {
	for range ships {
	}
}

func compute(stop chan bool) {
	for i := 0; ; i++ {
		select {
		case <-stop:
			return
		default:
		}
	}
}

func main() {
	ships, stop := make(chan int), make(chan bool)
	for i := 0; i < 12; i++ {
		go berth(ships)
	}
	go compute(stop)
	time.Sleep(50 * time.Millisecond)
	for i, name := range []string{"debug1.txt", "debug2.txt"} {
		file, _ := os.Create(name)
		pprof.Lookup("goroutine").WriteTo(file, i+1)
		file.Close()
	}
}
