package edge

import (
	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/rooms"
)

// Who may make a call at all. What a person may do with one thing rather than another
// is decided where that thing is read.
const (
	anybody  = api.Role("anybody")   // also who is not signed in
	signedIn = api.Role("signed-in") // also with a one-time password
	viewer   = api.RoleViewer
	editor   = api.RoleEditor
	admin    = api.RoleAdmin
)

// leastRole is the least role for each call of the contract. A test fails where a call
// is missing.
var leastRole = map[string]api.Role{
	"signIn": anybody,

	"changePassword": signedIn,
	"getSession":     signedIn,
	"signOut":        signedIn,

	"getWaysIn":          anybody,
	"startPasskeySignIn": anybody,
	"signInWithPasskey":  anybody,
	"confirmPassword":    signedIn,
	"getFactors":         signedIn,
	"startTotp":          signedIn,
	"confirmTotp":        signedIn,
	"removeTotp":         signedIn,
	"startPasskey":       signedIn,
	"addPasskey":         signedIn,
	"removePasskey":      signedIn,
	"renewRecoveryCodes": signedIn,
	"removeFactors":      admin,

	"addFeed":             viewer,
	"addToken":            viewer,
	"compareVersions":     viewer,
	"countParts":          viewer,
	"drawSpecimen":        viewer,
	"deleteSearch":        viewer,
	"endLicense":          viewer,
	"findDocuments":       viewer,
	"findFallback":        viewer,
	"getBuilder":          viewer,
	"getBuilderSchema":    viewer,
	"findAlike":           viewer,
	"getImport":           viewer,
	"getDocumentContent":  viewer,
	"getFamily":           viewer,
	"getInspectedPage":    viewer,
	"getInspectedPicture": viewer,
	"getInspection":       viewer,
	"getInspectionFile":   viewer,
	"getLicense":          viewer,
	"listFindings":        viewer,
	"listInspections":     viewer,
	"getFamilyDocument":   viewer,
	"getRegister":         viewer,
	"getRegisterFile":     viewer,
	"getShortlist":        viewer,
	"getSite":             viewer,
	"getVerdict":          viewer,
	"getViews":            viewer,
	"listActivity":        viewer,
	"getActivityFile":     viewer,
	"listBuilderVersions": viewer,
	"listBuilders":        viewer,
	"listCharacterSets":   viewer,
	"listCharacters":      viewer,
	"listClients":         viewer,
	"changeClient":        editor,
	"getStudio":           viewer,
	"measureCoverage":     viewer,
	"getSettings":         admin,
	"listSessions":        viewer,
	"endSession":          viewer,
	"listImports":         viewer,
	"listImportItems":     viewer,
	"listImportFamilies":  viewer,
	"listDue":             viewer,
	"listFamilies":        viewer,
	"listPairings":        viewer,
	"listSimilarFamilies": viewer,
	"listFeeds":           viewer,
	"listGaps":            viewer,
	"listJobs":            viewer,
	"listFileURLs":        viewer,
	"listLanguages":       viewer,
	"listLicenseVersions": viewer,
	"listLicenses":        viewer,
	"listLiveStylesheets": viewer,
	"listOpenLicenses":    viewer,
	"listPacks":           viewer,
	"listProposals":       viewer,
	"listSearchWords":     viewer,
	"listSearches":        viewer,
	"listShortlists":      viewer,
	"listSignOffs":        viewer,
	"listSitePages":       viewer,
	"listSites":           viewer,
	"listTemplates":       viewer,
	"listTokens":          viewer,
	"planPack":            viewer,
	"saveSearch":          viewer,
	"sendDue":             viewer,
	"setWeekly":           viewer,
	"tryBuilderRules":     viewer,
	"tryUpload":           viewer,
	"watchEvents":         viewer,
	"revokeFeed":          viewer,
	"revokeToken":         viewer,

	"acceptImport":           editor,
	"acceptFinding":          editor,
	"reopenFinding":          editor,
	"scheduleInspections":    editor,
	"startInspection":        editor,
	"addBuilder":             editor,
	"addClient":              editor,
	"addImportItem":          editor,
	"addDocument":            editor,
	"addFile":                editor,
	"useFile":                editor,
	"useNewestFile":          editor,
	"confirmRecognized":      editor,
	"coverFamilies":          editor,
	"changeFamilies":         editor,
	"removeFace":             editor,
	"removeFile":             editor,
	"restoreFile":            editor,
	"settleConflict":         editor,
	"recordFileAs":           editor,
	"addHosted":              editor,
	"addLicense":             editor,
	"addOutlet":              editor,
	"archiveClient":          editor,
	"closeClient":            admin,
	"openClient":             admin,
	"getFamilyProof":         viewer,
	"checkReplacements":      editor,
	"snoozeDue":              editor,
	"wakeDue":                editor,
	"assignDue":              editor,
	"unassignDue":            editor,
	"listOwners":             editor,
	"deleteOutlet":           editor,
	"renewLicense":           editor,
	"readLicenseDocument":    editor,
	"readFamilyDocument":     viewer,
	"addLiveStylesheet":      editor,
	"addAllocation":          editor,
	"addShortlist":           editor,
	"addSignOff":             editor,
	"addFamilySignOff":       editor,
	"addSite":                editor,
	"addSitePages":           editor,
	"restoreFamily":          editor,
	"selfHostFamily":         editor,
	"buildPack":              editor,
	"changeBuilder":          editor,
	"changeImportItems":      editor,
	"changeFamily":           editor,
	"changeLicense":          editor,
	"changeShortlist":        editor,
	"changeSite":             editor,
	"confirmProposal":        editor,
	"deleteFamily":           editor,
	"deleteBuilder":          editor,
	"removeSiteFamily":       editor,
	"removeHostedStylesheet": editor,
	"removeAllocation":       editor,
	"deleteShortlist":        editor,
	"removeSitePage":         editor,
	"deleteTemplate":         editor,
	"removeFileURLs":         editor,
	"getFamilyPack":          editor,
	"getFileContent":         editor,
	"getPackContent":         editor,
	"getReshapedContent":     editor,
	"addFileURLs":            editor,
	"importViews":            editor,
	"attachFamilyDocument":   editor,
	"moveFaces":              editor,
	"startImport":            editor,
	"readHosted":             editor,
	"reshapeFile":            editor,
	"retryJob":               editor,
	"saveTemplate":           editor,
	"setChoices":             editor,
	"assignRoles":            editor,
	"setViews":               editor,
	"shareShortlist":         editor,
	"markSitePage":           editor,
	"discardImport":          editor,
	"addSiteFamily":          editor,
	"planRebuild":            viewer,
	"rebuild":                editor,
	"planClientPack":         viewer,
	"buildClientPack":        editor,
	"sizeSiteFamily":         editor,
	"revokeLiveStylesheet":   editor,
	"revokeShare":            editor,
	"revokeSignOff":          editor,

	"listAudit":      admin,
	"getAuditFile":   admin,
	"checkAudit":     admin,
	"addPerson":      admin,
	"approveLicense": admin,
	"changePerson":   admin,
	"givePassword":   admin,
	"listPeople":     admin,
}

// Permitted refuses calls that a person's role does not allow, before anything of the
// request is read.
func (k *Contract) Permitted(c *rooms.Rooms) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(e *echo.Context) error {
			o := k.of(e)
			if o == nil {
				return next(e)
			}
			role, known := leastRole[o.route.Operation.OperationID]
			if !known {
				role = admin
			}
			r := e.Request()
			if p := Who(r.Context()); p != nil && p.Role == string(api.RoleGuest) {
				ctx, err := asGuest(r.Context(), p, o.route.Operation.OperationID, role)
				if err != nil {
					return err
				}
				e.SetRequest(r.WithContext(ctx))
			}
			if role == anybody || role == signedIn {
				return next(e)
			}
			if err := c.Permit(Who(e.Request().Context()), role); err != nil {
				return err
			}
			return next(e)
		}
	}
}
