package store

// FamilyPage is all that is recorded of one family and around it: its faces and files,
// the licenses that cover it, the sites and shortlists that use it.
type FamilyPage struct {
	Family          *Family
	Sites           []Site // without their families and role_assignments
	RoleAssignments []RoleAssignment
	Shortlists      []Shortlist
	FamilyDocuments []FamilyDocument
	Sheets          []HostedStylesheet
	Carriers        []Carrying // of its files
	Derived         []Derived  // of its files
	Licenses        []License  // that cover it
	Bearings        map[int64]string
	Findings        []DocumentFindings
	// What counts against the licenses with a limit of page views.
	Uses      []Using
	UsedSites []Site // without their families and role_assignments
	Views     []Views
	Days      []LiveDay
}
