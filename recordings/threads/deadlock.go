// Two goroutines that wait for each other, and a main that waits for both: the runtime itself finds it.
package main

import (
	"sync"
	"time"
)

type quay struct {
	mu   sync.Mutex
	name string
}

func moor(first, second *quay, done *sync.WaitGroup) {
	defer done.Done()
	first.mu.Lock()
	time.Sleep(50 * time.Millisecond)
	second.mu.Lock()
	second.mu.Unlock()
	first.mu.Unlock()
}

func main() {
	var done sync.WaitGroup
	west, east := &quay{name: "west"}, &quay{name: "east"}
	done.Add(2)
	go moor(west, east, &done)
	go moor(east, west, &done)
	done.Wait()
}
