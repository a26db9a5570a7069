package api

import (
	"context"

	"freshanvil/internal/app"
)

// Kept is how the database is kept.
func (s *Server) Kept(ctx context.Context, _ KeptRequestObject) (KeptResponseObject, error) {
	k, err := s.App.Keeping(ctx)
	return Kept200JSONResponse(keptOut(k)), err
}

// KeepCopies says how many copies are kept.
func (s *Server) KeepCopies(ctx context.Context, r KeepCopiesRequestObject) (KeepCopiesResponseObject, error) {
	if err := s.App.KeepCopies(ctx, r.Body.Keep); err != nil {
		return nil, err
	}
	k, err := s.App.Keeping(ctx)
	return KeepCopies200JSONResponse(keptOut(k)), err
}

// CopyNow makes a copy.
func (s *Server) CopyNow(ctx context.Context, _ CopyNowRequestObject) (CopyNowResponseObject, error) {
	if err := s.App.CopyNow(ctx); err != nil {
		return nil, err
	}
	k, err := s.App.Keeping(ctx)
	return CopyNow201JSONResponse(keptOut(k)), err
}

func keptOut(k app.Keeping) Kept {
	out := Kept{Keep: k.Keep, Folder: k.Folder, Tried: ptr(k.Tried), Failed: ptr(k.Failed), Checked: ptr(k.Checked),
		Damage: ptr(k.Damage), Late: k.Late, Copies: []KeptCopy{}}
	for _, c := range k.Copies {
		out.Copies = append(out.Copies, KeptCopy{Name: c.Name, At: c.At, Bytes: c.Bytes})
	}
	return out
}
