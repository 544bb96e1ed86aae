// Package version says which version of the program this is.
package version

import "runtime/debug"

// String returns the module's version where the build knows one, else the commit it was
// built from, with + where files were changed since.
func String() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	return of(info)
}

func of(info *debug.BuildInfo) string {
	if v := info.Main.Version; v != "" && v != "(devel)" {
		return v
	}
	at := map[string]string{}
	for _, s := range info.Settings {
		at[s.Key] = s.Value
	}
	commit := at["vcs.revision"]
	if commit == "" {
		return "built without version control"
	}
	commit = commit[:min(len(commit), 12)]
	if at["vcs.modified"] == "true" {
		commit += "+"
	}
	return commit
}
