// Package desk is the screen on which one code is worked on.
package desk

import (
	"context"
	"embed"
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files, forms.Templates)

// Handler serves the screen.
type Handler struct {
	Store *code.Store
	House *housestyle.Store
	Links *link.Store    // of dynamic codes
	Scans *scans.Store   // of their links
	Door  *handover.Door // through which files leave
	// LinksAt is where short links can be tried on this machine, in place of their host; nil for nowhere else.
	LinksAt func(shortlink.Address) string
	// Members are the people of a workspace
	Members func(ctx context.Context, workspace string) ([]people.Member, error)
	// Follow answers short links as a phone would have them answered; nil where nothing does.
	Follow Follower
	// Base is the address of this server, for pictures that other pages show.
	Base string
	// Asked keeps what goes beyond the verdict (hard conditions, abuse, the range) until somebody asks for it.
	Asked bool
}

// Routes mounts the screen.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	files, look, change := r.With(may(people.Files)), r.With(may(people.Look)), r.With(may(people.Change))
	look.Get("/codes/{id}", h.page)
	change.Patch("/codes/{id}", h.edit)
	change.Post("/codes/{id}/campaign", h.setCampaign)
	change.Post("/codes/{id}/fix", h.fix)
	change.Post("/codes/{id}/link", h.link)
	change.Post("/codes/{id}/undo", h.turn(false))
	change.Get("/codes/{id}/undo", h.askTurn)
	change.Post("/codes/{id}/redo", h.turn(true))
	change.Post("/codes/{id}/turn", h.turnWay)
	change.Patch("/codes/{id}/lead", h.leadTo)
	change.Post("/codes/{id}/lead", h.lead)
	change.Post("/codes/{id}/lead/{act}", h.leadAct)
	look.Get("/codes/{id}/routes", h.routes)
	look.Get("/codes/{id}/routes/if", h.whatIf)
	look.Get("/codes/{id}/routes/week", h.weekOf)
	change.Post("/codes/{id}/routes", h.routeEdit)
	change.Post("/codes/{id}/routes/{act}", h.routeAct)
	change.Post("/codes/{id}/word", h.word)
	change.Post("/codes/{id}/lead/file", h.leadFile)
	change.Post("/codes/{id}/keeper", h.keeper)
	change.Post("/codes/{id}/hanging", h.hang)
	change.Post("/codes/{id}/places", h.addPlace)
	change.Post("/codes/{id}/places/remove", h.removePlace)
	look.Get("/codes/{id}/proof", h.proof)
	look.Get("/codes/{id}/damage", h.damage)
	look.Get("/codes/{id}/frames", h.frames)
	look.Get("/codes/{id}/eyes", h.eyes)
	look.Get("/icons", h.icons)
	look.Get("/codes/{id}/looks", h.looks)
	look.Get("/codes/{id}/looks/verdict", h.lookVerdict)
	change.Post("/codes/{id}/look", h.wear)
	change.Post("/codes/{id}/looks", h.keepLook)
	look.Get("/codes/{id}/variations", h.variations)
	look.Get("/codes/{id}/variations/{seed}/{k}", h.variation)
	change.Post("/codes/{id}/try", h.try)
	change.Post("/codes/{id}/mark", h.upload)
	look.Get("/codes/{id}/issued", h.issued)
	look.Get("/codes/{id}/changes", h.changes)
	look.Get("/codes/{id}/history", h.history)
	look.Get("/codes/{id}/compare", h.compare)
	change.Post("/codes/{id}/return", h.goBack)
	look.Get("/codes/{id}/camera", h.camera)
	look.Get("/codes/{id}/proof-sheet", h.proofSheet)
	look.Get("/codes/{id}/phone", h.tryOn)
	change.Post("/codes/{id}/phone", h.tried)
	look.Get("/codes/{id}/print", h.checks)
	change.Post("/codes/{id}/print", h.check)
	look.Get("/codes/{id}/evidence", h.evidence)
	look.Get("/codes/{id}/evidence/{condition}", h.witness)
	look.Get("/codes/{id}/picture/{name}", h.picture)
	change.Post("/codes/{id}/ship", h.ship)
	change.Post("/codes/{id}/mail", h.mail)
	change.Post("/codes/{id}/printed", h.printed)
	change.Post("/codes/{id}/address", h.giveAddress)
	change.Post("/codes/{id}/address/remove", h.takeAddress)
	change.Post("/codes/{id}/show/{how}", h.show)
	r.Get("/shown/{token}", h.shown)
	r.Get("/shown/{token}/{name}", h.shownFile)
	look.Get("/codes/{id}/in-place", h.inPlace)
	look.Get("/codes/{id}/borne", h.borne)
	look.Get("/codes/{id}/plates", h.plates)
	look.Get("/codes/{id}/artwork/{place}", h.artwork)
	change.Post("/codes/{id}/artwork", h.uploadArtwork)
	change.Post("/codes/{id}/artwork/page", h.turnPage)
	change.Post("/codes/{id}/move", h.move)
	change.Post("/codes/{id}/medium", h.keepMedium)
	look.Get("/codes/{id}/least", h.minWidth)
	files.Get("/codes/{id}/versions/{n}/{place}/print", h.printPage)
	files.Get("/codes/{id}/versions/{n}/{place}/screen", h.screenPage)
	files.Get("/codes/{id}/versions/{n}", h.version)
	files.Get("/codes/{id}/versions/{n}/{place}/{name}", h.versionFile)
}
