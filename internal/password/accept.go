package password

import (
	"bytes"
	"crypto/sha256"
	_ "embed"
	"fmt"
	"sort"
	"strings"
	"unicode/utf8"
)

// Shortest is how many letters a password has at least.
const Shortest = 12

// common is the list of passwords that are tried first by whoever guesses: the first 8 bytes of the SHA-256 of each, in
// small letters, in order. It holds those of 12 letters and more of the common list of the zxcvbn-ts project (MIT
// licence), the most frequent shorter ones doubled or with the usual digits behind them, and rows of one letter, of the
// digits, of the alphabet and of the keyboard.
//
//go:embed common.bin
var common []byte

const prefix = 8

// Accept tells what is wrong with a password that somebody chose: it has Shortest letters or more and is not a common
// one (NIST SP 800-63B, 2017, section 5.1.1.2). There are no other demands.
func Accept(password string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < Shortest:
		return fmt.Errorf("the password has %d letters; expected %d or more. A few words in a row are easy to remember", n,
			Shortest)
	case len(password) > Longest:
		return fmt.Errorf("the password has %d bytes; expected %d at most", len(password), Longest)
	case isCommon(password):
		return fmt.Errorf("this password is on the list of common ones, which are guessed first; choose another")
	}
	return nil
}

func isCommon(password string) bool {
	sum := sha256.Sum256([]byte(strings.ToLower(password)))
	at := func(i int) []byte { return common[i*prefix : (i+1)*prefix] }
	n := len(common) / prefix
	i := sort.Search(n, func(i int) bool { return bytes.Compare(at(i), sum[:prefix]) >= 0 })
	return i < n && bytes.Equal(at(i), sum[:prefix])
}
