package reports

import (
	"context"
	"fmt"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/backupdb"
)

// byHand is how old a backup may become that somebody makes by the command, whose schedule is
// not known here.
const byHand = 8 * 24 * time.Hour

// backedUp tells admins where the last good backup is too old. A service that nobody has ever
// backed up, and that does not do it itself, says nothing: its machine may be backed up whole.
func (d *dueList) backedUp(ctx context.Context, s *store.Store, plan app.BackupPlan, now time.Time, p *store.Person) error {
	if admin := app.Require(p, api.RoleAdmin) == nil; !admin {
		return nil
	}
	last, err := backupdb.In(s).Last(ctx)
	if err != nil {
		return err
	}
	late, how := byHand, "Look why `sparecrate backup` no longer runs."
	if plan.Place != "" {
		late, how = plan.Late(), "One is due "+plan.Often()+". Look at the failed jobs to see why it is not made."
	}
	message := "No backup has been made yet. "
	if last != nil {
		age := now.Sub(last.MadeAt)
		if age <= late {
			return nil
		}
		message = fmt.Sprintf("The last good backup is of %s, %s ago. ", last.MadeAt.Format(time.DateOnly), app.Number(int(age.Hours()/24), "day"))
	} else if plan.Place == "" {
		return nil
	}
	d.add(api.DueItem{Kind: api.DueBackup, State: api.Review, Message: message + how}, store.Client{}, nil)
	return nil
}
