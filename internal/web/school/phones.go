package school

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"github.com/boombuler/barcode/qr"
	"github.com/gin-gonic/gin"

	"maestrale/internal/draw"
	"maestrale/internal/web/frame"
)

// phonesModel is how phones reach the server.
type phonesModel struct {
	Address string
	Others  []string
	Local   bool // only this machine reaches it
	Secure  bool
	Own     bool // the certificate is of the own authority
	QR      template.HTML
}

// PhonesPage shows at which addresses the server is reached, with a code for a phone's camera.
func (s Pages) PhonesPage(c *gin.Context) {
	m := phonesModel{Address: s.Frame.Address(""), Secure: strings.HasPrefix(s.Frame.Address(""), "https://")}
	if f := s.Front(); f != nil {
		m.Local = f.Local() && strings.HasPrefix(m.Address, "http://127.")
		m.Own = f.Authority != nil
		for _, a := range f.Addresses() {
			if a != m.Address {
				m.Others = append(m.Others, a)
			}
		}
	}
	to := m.Address
	if m.Own {
		to += "/trust"
	}
	code, err := qr.Encode(to, qr.M, qr.Auto)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.QR = draw.Squares(code, fmt.Sprintf(msgCodeOpensPhone, to))
	s.Render(c, http.StatusOK, "phones", frame.Page{Title: msgHowPhonesReach, Place: "School", Body: m})
}

// trustModel is what a phone's owner has to know of the own authority.
type trustModel struct {
	Fingerprint []string // in four lines, to compare by eye
	Names       []string
	Until       string
	Address     string
	QR          template.HTML
}

// TrustPage explains how a phone is told to trust the authority of this server, and how that is taken back.
func (s Pages) TrustPage(c *gin.Context) {
	f := s.Front()
	if f == nil || f.Authority == nil {
		s.NotFound(c)
		return
	}
	a := f.Authority
	m := trustModel{Fingerprint: a.Fingerprint(), Names: a.Names(), Until: a.Certificate.NotAfter.Format("2 January 2006"),
		Address: s.Frame.Address("")}
	s.Render(c, http.StatusOK, "trust", frame.Page{Title: msgTrustSchoolServer, Body: m})
}

// TrustFile is the authority's certificate, as phones take it.
func (s Pages) TrustFile(c *gin.Context) {
	f := s.Front()
	if f == nil || f.Authority == nil {
		s.NotFound(c)
		return
	}
	c.Header("Content-Disposition", "attachment; filename=\"maestrale-authority.crt\"")
	c.Data(http.StatusOK, "application/x-x509-ca-cert", f.Authority.Certificate.Raw)
}
