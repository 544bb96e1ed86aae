package license

import "time"

// Count is what was counted in a month.
type Count struct {
	Month time.Time // its first day, UTC
	Views int64
}

// Outlook says where a count is going.
type Outlook struct {
	Latest  int64      // of the latest month
	Month   time.Time  // which that is
	Trend   float64    // more each month; less than 0 where it falls
	Reached *time.Time // the first month over the cap if it goes on like this; nil for none within Horizon
}

const (
	// Horizon is how many months ahead an outlook reaches.
	Horizon = 36
	// A trend is drawn through these many months at most, and not through fewer than trendLeast.
	trendMost  = 12
	trendLeast = 3
)

// Look says where counts are going: a straight line through the latest months, by
// least squares. The counts are in the order of their months; cap 0 is no cap.
func Look(counts []Count, limit int64) Outlook {
	if len(counts) == 0 {
		return Outlook{}
	}
	last := counts[len(counts)-1]
	out := Outlook{Latest: last.Views, Month: last.Month}
	if limit > 0 && last.Views > limit {
		out.Reached = &out.Month
	}
	recent := counts[max(0, len(counts)-trendMost):]
	if len(recent) < trendLeast {
		return out
	}
	var n, sx, sy, sxx, sxy float64
	for _, c := range recent {
		x, y := float64(monthsBetween(last.Month, c.Month)), float64(c.Views)
		n, sx, sy, sxx, sxy = n+1, sx+x, sy+y, sxx+x*x, sxy+x*y
	}
	out.Trend = (n*sxy - sx*sy) / (n*sxx - sx*sx)
	if limit <= 0 || out.Reached != nil || out.Trend <= 0 {
		return out
	}
	level := (sy - out.Trend*sx) / n // of the line, in the latest month
	for ahead := 1; ahead <= Horizon; ahead++ {
		if level+out.Trend*float64(ahead) > float64(limit) {
			at := last.Month.AddDate(0, ahead, 0)
			out.Reached = &at
			break
		}
	}
	return out
}

func monthsBetween(from, to time.Time) int {
	return (to.Year()-from.Year())*12 + int(to.Month()) - int(from.Month())
}
