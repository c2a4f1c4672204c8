// Command testsummary reads the events of go test -json and prints what
// failed, in full, and how much ran.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"sort"
	"strings"
)

type event struct {
	Action, Package, Test, Output string
	Elapsed                       float64
}

func main() {
	output := map[string][]string{}
	counts := map[string]int{}
	var lines []string
	in := bufio.NewScanner(os.Stdin)
	in.Buffer(make([]byte, 1<<20), 1<<26)
	for in.Scan() {
		var e event
		if json.Unmarshal(in.Bytes(), &e) != nil {
			fmt.Println(in.Text())
			continue
		}
		key := e.Package + " " + e.Test
		switch e.Action {
		case "output", "build-output":
			output[key] = append(output[key], e.Output)
		case "pass", "fail", "skip":
			if e.Test != "" {
				counts[e.Action]++
			} else if e.Action != "skip" {
				lines = append(lines, fmt.Sprintf("%-5s %-28s %6.1f s", e.Action, strings.TrimPrefix(e.Package, "vereda/"), e.Elapsed))
			}
			if e.Action == "fail" {
				if e.Test == "" && counts["fail"] == 0 {
					counts["fail"]++ // a package that does not build
				}
				fmt.Print(strings.Join(output[key], ""))
			}
		}
	}
	sort.Strings(lines)
	fmt.Println(strings.Join(lines, "\n"))
	fmt.Printf("%d passed, %d failed, %d skipped\n", counts["pass"], counts["fail"], counts["skip"])
}
