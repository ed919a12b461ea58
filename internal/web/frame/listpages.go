package frame

import "strconv"

// PerPage is how many students stand on a page of a list.
const PerPage = 50

// ListPage is which page of a list is shown. Says is empty where all of the list is.
type ListPage struct {
	From, To, Of int    // the first and the last that are shown, from 1
	Back, On     string // addresses of the pages before and after; empty = none
}

// Many tells whether the list has more pages than one.
func (p ListPage) Many() bool { return p.Of > PerPage }

// PageOf cuts the page that is asked for out of a list; one that is no page of it is the first. Link makes the address
// of a page.
func PageOf[T any](list []T, asked string, link func(page string) string) ([]T, ListPage) {
	at, err := strconv.Atoi(asked)
	if err != nil || at < 1 || at-1 > (len(list)-1)/PerPage {
		at = 1
	}
	from, to := (at-1)*PerPage, min(at*PerPage, len(list))
	p := ListPage{From: from + 1, To: to, Of: len(list)}
	if at > 1 {
		p.Back = link(strconv.Itoa(at - 1))
	}
	if to < len(list) {
		p.On = link(strconv.Itoa(at + 1))
	}
	return list[from:to], p
}
