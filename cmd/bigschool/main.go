// Command bigschool grows a sample school by many students with real results, a fleet and field days, to see how the
// program bears it: go run ./cmd/bigschool -database-url URL -students 500 -attempts 1000. The address is that of
// the owner of the tables, in a database that has the sample school ("maestrale demo"). What is added cannot be
// taken out again.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"

	"maestrale/internal/bigschool"
	"maestrale/internal/demo"
	"maestrale/internal/store"
)

func main() {
	url := flag.String("database-url", os.Getenv("DATABASE_URL"), "the database, as its owner")
	var size bigschool.Size
	flag.IntVar(&size.Students, "students", 500, "how many students are added")
	flag.IntVar(&size.Attempts, "attempts", 1000, "how many attempts each has")
	flag.IntVar(&size.Days, "days", 60, "how many field days were flown before today")
	flag.Parse()
	if err := grow(context.Background(), *url, size); err != nil {
		fmt.Fprintln(os.Stderr, "bigschool:", err)
		os.Exit(1)
	}
}

func grow(ctx context.Context, url string, size bigschool.Size) error {
	if url == "" || size.Students < 1 || size.Attempts < 1 || size.Days < 0 {
		return fmt.Errorf("expected a database, one student with one attempt at least, and no fewer than 0 field days")
	}
	s, err := store.OpenAsOwner(ctx, url)
	if err != nil {
		return err
	}
	defer s.Close()
	cred, err := s.ByEmail(ctx, demo.SignIns()[0].Email)
	if err != nil {
		return fmt.Errorf("the database has no sample school: %w", err)
	}
	p, err := s.ByAccount(ctx, cred.AccountID)
	if err != nil {
		return err
	}
	return bigschool.Grow(ctx, url, p.SchoolID, p.SchoolID, size)
}
