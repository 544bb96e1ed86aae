package service_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// clicked are the tests that do the jobs of each chapter of the guide in a browser.
var clicked = map[string][]string{
	"First steps":                          {"TestFirstSteps"},
	"Sign in, people and tokens":           {"TestFromSignInToDownloadedPack", "TestAccessPage", "TestAccountsInTheConsole", "TestNewPersonSetsAPasswordFirst", "TestSettingsInTheConsole"},
	"What people see":                      {"TestGuestsInTheConsole"},
	"Second factor":                        {"TestPasskeysInTheBrowser"},
	"Sign-on":                              {"TestSigningOnInTheBrowser"},
	"Audit log":                            {"TestTheAuditLogInTheConsole"},
	"What needs attention":                 {"TestHomeInTheConsole", "TestAProducersDay"},
	"Clients":                              {"TestHomeInTheConsole", "TestTablesInTheConsole"},
	"When a client leaves":                 {"TestAClientIsArchivedClosedAndOpened"},
	"Import fonts":                         {"TestFromSignInToDownloadedPack", "TestADeliveryInTheConsole", "TestImportSaysWhatIsWrong", "TestFilesInTheConsole"},
	"Families hosted elsewhere":            {"TestHostedInTheConsole"},
	"Missing details":                      {"TestFilesInTheConsole"},
	"Find a family":                        {"TestFindingInTheConsole", "TestTheCatalogIsLookedThrough"},
	"Similar families and pairings":        {"TestTheCatalogIsLookedThrough"},
	"Shortlists":                           {"TestShortlistInTheConsole"},
	"Look at a family":                     {"TestAFamilysLifeInTheConsole", "TestFilesInTheConsole"},
	"Look at a face":                       {"TestAFacePageTellsAll", "TestLookingCloser", "TestWhatANewVersionChangedShowsInTheConsole"},
	"Licenses":                             {"TestFromSignInToDownloadedPack", "TestALicenseIsRenewed", "TestALicenseDocumentFillsInTheForm"},
	"Open licenses":                        {"TestAnOpenLicenseIsConfirmedInTheConsole"},
	"Page views, seats and apps":           {"TestLimitsInTheConsole", "TestPageViewsComeInByFile"},
	"Verdicts":                             {"TestAFamilyPackIsSignedOffInTheConsole", "TestABarredFamilyIsSignedOffByAnAdminOnly"},
	"The license register":                 {"TestTablesInTheConsole"},
	"Sites":                                {"TestASiteHasSeveralOutlets", "TestLiveStylesheets", "TestTablesInTheConsole"},
	"Fonts and roles":                      {"TestManyRolesAtOnce", "TestDeliveringInTheConsole"},
	"The style guide":                      {"TestTheStyleGuideShowsTheRoles"},
	"Builders":                             {"TestRulesInTheConsole", "TestRulesGoBackInTheConsole"},
	"Build a pack":                         {"TestFromSignInToDownloadedPack", "TestWhatAPackSendsIsChosenInTheConsole", "TestEverythingOfAClientForOneMachine", "TestANewVersionEverywhere"},
	"File URLs that come after the upload": {"TestDeliveringInTheConsole"},
	"Pages that each need a block":         {"TestDeliveringInTheConsole"},
	"Inspect published pages":              {"TestInspectionsInTheConsole"},
	"Activity":                             {"TestAnOpenPageIsToldWhatOthersDo", "TestActivityInTheConsole"},
	"Subset and convert":                   {"TestReshapingInTheConsole"},
}

// notClicked are the chapters whose jobs are not done in the console.
var notClicked = []string{"Where to start", "Files without a service"}

// TestEveryChapterIsClickedThrough holds the guide against the tests: each chapter has tests
// that do its jobs in a browser.
func TestEveryChapterIsClickedThrough(t *testing.T) {
	text, err := os.ReadFile("../../docs/GUIDE.md")
	require.NoError(t, err)
	tests := map[string]bool{} // whether they open a tab
	files, err := filepath.Glob("*_test.go")
	require.NoError(t, err)
	for _, file := range files {
		parsed, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
		require.NoError(t, err)
		for _, d := range parsed.Decls {
			if f, is := d.(*ast.FuncDecl); is {
				ast.Inspect(f, func(n ast.Node) bool {
					if call, is := n.(*ast.CallExpr); is {
						if name, is := call.Fun.(*ast.Ident); is && name.Name == "tab" {
							tests[f.Name.Name] = true
						}
					}
					return true
				})
			}
		}
	}
	for _, m := range regexp.MustCompile(`(?m)^###? (.+)$`).FindAllStringSubmatch(string(text), -1) {
		chapter := strings.TrimSpace(m[1])
		if slices.Contains(notClicked, chapter) {
			continue
		}
		assert.NotEmpty(t, clicked[chapter], "no test does the jobs of the chapter %q", chapter)
		for _, name := range clicked[chapter] {
			assert.True(t, tests[name], "%s, for the chapter %q, opens no tab", name, chapter)
		}
	}
}
