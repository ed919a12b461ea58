package reach

import (
	"fmt"
	"strings"

	"github.com/boombuler/barcode/qr"
)

// TerminalQR draws an address as a QR code of half blocks, dark on light whatever the terminal's colours are, with the
// quiet zone of four modules that the code asks for (ISO/IEC 18004).
func TerminalQR(address string) (string, error) {
	code, err := qr.Encode(address, qr.M, qr.Auto)
	if err != nil {
		return "", fmt.Errorf("QR code: %w", err)
	}
	const quiet = 4
	size := code.Bounds().Dx()
	dark := func(x, y int) bool {
		if x < 0 || y < 0 || x >= size || y >= size {
			return false
		}
		r, _, _, _ := code.At(x, y).RGBA()
		return r == 0
	}
	var b strings.Builder
	for y := -quiet; y < size+quiet; y += 2 {
		b.WriteString("\x1b[30;107m") // black on white
		for x := -quiet; x < size+quiet; x++ {
			b.WriteString(map[[2]bool]string{{true, true}: "█", {true, false}: "▀", {false, true}: "▄",
				{false, false}: " "}[[2]bool{dark(x, y), dark(x, y+1)}])
		}
		b.WriteString("\x1b[0m\n")
	}
	return b.String(), nil
}
