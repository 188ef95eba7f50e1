// A program whose costs are known, profiled by Go's standard library:
//   go build -trimpath -o /quay/tides tides.go && /quay/tides go
// It writes cpu, heap, mutex, block and goroutine profiles as gzipped protobuf, and what it knows of itself as JSON.
package main

import (
	"context"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"runtime/pprof"
	"sync"
	"time"
)

var sink float64
var held [][]byte
var last []byte

// wave is small enough that the compiler puts it into its caller.
func wave(n int) float64 { return math.Sqrt(float64(n)) * 1.5 }

//go:noinline
func harmonic(until time.Time) {
	for time.Now().Before(until) {
		for i := 0; i < 20_000; i++ {
			sink += wave(i)
		}
	}
}

//go:noinline
func residue(until time.Time) {
	for time.Now().Before(until) {
		for i := 1; i < 20_000; i++ {
			sink += math.Mod(float64(i), 7.3)
		}
	}
}

//go:noinline
func keepStamps(n int) {
	for i := 0; i < n; i++ {
		held = append(held, make([]byte, 64<<10))
	}
}

//go:noinline
func passStamps(n int) {
	for i := 0; i < n; i++ {
		last = make([]byte, 64<<10)
	}
}

var gate sync.Mutex

//go:noinline
func passGate(times int, wait *sync.WaitGroup) {
	defer wait.Done()
	for i := 0; i < times; i++ {
		gate.Lock()
		time.Sleep(2 * time.Millisecond)
		gate.Unlock()
	}
}

//go:noinline
func park(done chan struct{}, wait *sync.WaitGroup) {
	wait.Done()
	<-done
}

func write(folder, name string) {
	file, err := os.Create(filepath.Join(folder, name+".pb.gz"))
	if err != nil {
		panic(err)
	}
	defer file.Close()
	if err := pprof.Lookup(name).WriteTo(file, 0); err != nil {
		panic(err)
	}
}

func main() {
	folder := os.Args[1]
	runtime.MemProfileRate = 1
	runtime.SetMutexProfileFraction(1)
	runtime.SetBlockProfileRate(1)

	keepStamps(100)
	passStamps(300)
	last = nil
	runtime.GC()
	write(folder, "heap")

	var gates sync.WaitGroup
	gates.Add(2)
	go passGate(20, &gates)
	go passGate(20, &gates)
	gates.Wait()
	write(folder, "mutex")
	write(folder, "block")

	done := make(chan struct{})
	var parked sync.WaitGroup
	parked.Add(7)
	for i := 0; i < 7; i++ {
		go park(done, &parked)
	}
	parked.Wait()
	write(folder, "goroutine")
	close(done)

	cpu, err := os.Create(filepath.Join(folder, "cpu.pb.gz"))
	if err != nil {
		panic(err)
	}
	if err := pprof.StartCPUProfile(cpu); err != nil {
		panic(err)
	}
	begun := time.Now()
	// Two parts of harmonic to one of residue, each with the endpoint it serves.
	pprof.Do(context.Background(), pprof.Labels("endpoint", "/tides"), func(context.Context) {
		harmonic(time.Now().Add(2 * time.Second))
	})
	pprof.Do(context.Background(), pprof.Labels("endpoint", "/residues"), func(context.Context) {
		residue(time.Now().Add(time.Second))
	})
	pprof.StopCPUProfile()
	cpu.Close()

	known, _ := json.MarshalIndent(map[string]interface{}{
		"recordedMs": time.Since(begun).Milliseconds(),
		"keptBytes":  len(held) * 64 << 10,
		"keptStamps": len(held),
		"parked":     7,
	}, "", "  ")
	if err := os.WriteFile(filepath.Join(folder, "known.json"), append(known, '\n'), 0o644); err != nil {
		panic(err)
	}
}
