package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"reflect"
	"runtime/debug"
	"strconv"
)

type BerthTaken struct{ text string }

func (e *BerthTaken) Error() string { return e.text }
func reserve(berth int, until string) { panic(&BerthTaken{fmt.Sprintf("berth %d is taken until %s", berth, until)}) }
func swap(berth int, until string)    { panic(&BerthTaken{fmt.Sprintf("berth %d is taken until %s", berth, until)}) }
func check(window string)             { panic(&BerthTaken{fmt.Sprintf("the window %s begins in the past", window)}) }
func release(berth int, until string) { panic(errors.New(fmt.Sprintf("berth %d is taken until %s", berth, until))) }

type Quay struct{ name *string }

func (q *Quay) LookUp() string { return *q.name }
func readManifest(lines []int, at int) int { return lines[at] }
func rank(tonnes []int) {
	weigh := func(t int) {
		if t < 0 {
			panic(errors.New(fmt.Sprintf("a call has %d tonnes", t)))
		}
	}
	for _, t := range tonnes {
		weigh(t)
	}
}
func viaBoard(work func(int), v int) { work(v) }
func viaPlan(work func(int), v int) {
	for i := 0; i < 1; i++ {
		work(v)
	}
}
func one(label string, v int, work func(int)) {
	defer func() {
		reason := recover()
		err, ok := reason.(error)
		if !ok {
			return
		}
		line, _ := json.Marshal([]any{"go", label, v, reflect.TypeOf(reason).String(), err.Error(), string(debug.Stack())})
		fmt.Println(string(line))
	}()
	if v%2 == 1 {
		viaPlan(work, v)
	} else {
		viaBoard(work, v)
	}
}
func main() {
	v, _ := strconv.Atoi(os.Args[1])
	one("taken", v, func(v int) { reserve(12+v, fmt.Sprintf("0%d:30", v)) })
	one("swapped", v, func(v int) { swap(12+v, fmt.Sprintf("0%d:30", v)) })
	one("past", v, func(v int) { check(fmt.Sprintf("2026-03-0%dT06:00Z", v+1)) })
	one("otherType", v, func(v int) { release(12+v, fmt.Sprintf("0%d:30", v)) })
	one("missing", v, func(v int) { (&Quay{}).LookUp() })
	one("parsing", v, func(v int) { readManifest([]int{1}, 3+v) })
	one("lambda", v, func(v int) { rank([]int{-v - 1}) })
}
