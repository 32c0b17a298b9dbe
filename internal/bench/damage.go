package main

import (
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"path/filepath"
	"time"

	"arvel/core/audit"
	"arvel/core/repair"
	"arvel/demo"
	"arvel/internal/damage"
	"arvel/internal/folder"
)

// damages is how many damages are made in each folder at least.
const damages = 35_000

// restored damages whole folders on purpose, repairs them and prints what that restored.
func restored() error {
	seed := rand.Uint64()
	r := rand.New(rand.NewPCG(seed, 0))
	fmt.Printf("\ndamage and restore, seed %d; aims: 80 %% with certain repairs and none wrong, 95 %% with likely ones and at most 1 %% wrong\n", seed)
	small := filepath.Join(".work", "bench", "demo")
	if err := demo.CopyTo(small); err != nil {
		return err
	}
	generated := filepath.Join(".work", "bench", "1000")
	if _, err := os.Stat(generated); err != nil {
		if err := demo.Large(generated, 1000); err != nil {
			return err
		}
	}
	sum := damage.Tallies{}
	for _, dir := range []string{small, generated, realFolders[0], realFolders[1]} {
		f, err := folder.Open(dir, nil)
		if err != nil {
			return err
		}
		s := damage.Whole(snapshotOf(f))
		f.Close()
		all := damage.Tallies{}
		start := time.Now()
		for all.All().Done < damages && time.Since(start) < 2*time.Minute {
			all.Add(damage.Round(r, s, 0.03))
		}
		fmt.Printf("\n%s\n%s", dir, all)
		sum.Add(all)
	}
	n := sum.All()
	fmt.Printf("\nin all: %d damages, %d seen, %.1f %% restored with certain repairs, %d wrong; %.1f %% with likely ones on top, %.2f %% wrong\n",
		n.Done, n.Seen(), 100*float64(n.Restored)/float64(n.Seen()), n.Wrong, 100*float64(n.Restored+n.LikelyRestored)/float64(n.Seen()), 100*float64(n.LikelyWrong)/float64(n.Seen()))
	return nil
}

// realFolders are those that "make real" unpacks.
var realFolders = []string{
	".work/real/libboost1.81-doc/usr/share/doc/libboost1.81-doc/doc",
	".work/real/imagemagick-6-doc/usr/share/doc/imagemagick-6-common/html",
}

// explained measures finding the causes and repairs of all that is broken.
func explained(f *folder.Folder) {
	s := snapshotOf(f)
	report := audit.Judge(s, audit.Terms{})
	took := time.Hour
	n := 0
	for range 3 {
		took = min(took, timed(func() {
			n = 0
			for _, c := range repair.NewPlanner(s, repair.Past{}).Causes(report) {
				n += len(c.Findings)
			}
		}))
	}
	if n == 0 {
		log.Fatal("there is nothing to explain")
	}
	fmt.Printf("%-34s %9s      at most 2 s for 10,000 findings; these are %d\n", "causes and repairs", took.Round(time.Millisecond), n)
}
