package api

import (
	"net/http"
	"net/url"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/people"

	"github.com/getkin/kin-openapi/routers"
	"github.com/labstack/echo/v5"
)

// CookieName is the cookie that holds the token of a session.
const CookieName = "gallipot"

// handsHeader carries the name that a screen shows, percent-encoded. If somebody else has signed in meanwhile, the act
// asks who it is, so that nothing is signed by the wrong person.
const handsHeader = "Gallipot-Person"

// everybody stands for operations that need no session.
const everybody people.Role = "everybody"

// asked maps each operation to the lowest role that may use it. Use cases check again where they know more: decisions,
// strikes, one's own PIN.
var asked = map[string]people.Role{
	"getSession": everybody, "signIn": everybody, "signOut": everybody, "firstOwner": everybody,

	"listPeople": people.Helper, "changePerson": people.Helper, "addPerson": people.Owner,
	"getShop": people.Helper, "putShop": people.Owner, "listRules": people.Helper,
	"getBowl": people.Helper, "splitBatch": people.Maker, "getRecords": people.Helper, "getStory": people.Helper,
	"getRecordFile": people.Helper, "getTrace": people.Helper, "getTraceFile": people.Helper,
	"listRecalls": people.Helper, "startRecall": people.Maker, "getRecall": people.Helper,
	"getRecallLetters": people.Helper, "writeRecall": people.Helper,
	"getToday": people.Helper, "getHistory": people.Helper, "listDates": people.Helper,

	"listIngredients": people.Helper, "getIngredient": people.Helper, "addIngredient": people.Maker,
	"putIngredient": people.Maker, "checkSupplierList": people.Helper, "putMeasure": people.Maker,
	"dropMeasure": people.Maker, "readPrices": people.Helper, "getPrices": people.Helper, "postPrices": people.Maker,
	"listPreparations": people.Helper, "getPreparation": people.Helper, "addPreparation": people.Maker,
	"putPreparation": people.Maker, "addYield": people.Maker, "dropYield": people.Maker, "lessWater": people.Helper,
	"compareRoutes": people.Helper,

	"lookAt": people.Maker, "lift": people.Owner, "readWords": people.Helper, "listOpen": people.Helper,
	"listAllergenChanges": people.Helper, "getAllergenChange": people.Helper, "fromLot": people.Owner,
	"listVessels": people.Helper, "addVessel": people.Maker, "putVessel": people.Maker, "noteVessel": people.Helper,
	"beforeLock": people.Helper,

	"listFormulas": people.Helper, "addFormula": people.Maker, "putFormula": people.Maker, "nextDraft": people.Maker,
	"getSheet": people.Helper, "putSheet": people.Maker, "dropDraft": people.Maker, "lockSheet": people.Maker,
	"compareVersions": people.Helper, "atSize": people.Helper, "getRecipeFile": people.Helper,
	"getSheetFile": people.Helper, "getCostFile": people.Helper, "getFamily": people.Helper,
	"addVariant": people.Maker, "rebase": people.Maker, "sideBySide": people.Helper, "swap": people.Helper,
	"listTrials": people.Helper, "saveTrial": people.Maker, "dropTrial": people.Maker, "standardise": people.Helper,
	"standardDraft": people.Maker,
	"listRecipes":   people.Helper, "addRecipe": people.Maker, "addRecipeFile": people.Maker,
	"getRecipe": people.Helper,
	"listWords": people.Helper, "addWord": people.Maker, "dropWord": people.Maker, "apartRecipe": people.Maker,
	"putRecipe": people.Maker, "dropRecipe": people.Maker, "draftFromRecipe": people.Maker,

	"listBatches": people.Helper, "getBatch": people.Helper, "restedOn": people.Helper, "getPrint": people.Helper,
	"getLock": people.Helper, "planBatch": people.Maker, "rehearse": people.Helper, "listDevices": people.Helper,
	"readDevice": people.Helper, "askDevice": people.Helper,
	"previewPlan": people.Helper, "getPlan": people.Helper,
	"getShopping": people.Helper, "listLags": people.Helper, "previewAddition": people.Helper,
	"writeEntry":  people.Helper,
	"costOfBatch": people.Helper, "costOf": people.Helper, "getCostTable": people.Helper, "variancesOf": people.Helper,
	"varianceOfBatch": people.Helper, "whereJarsAre": people.Helper, "dispatch": people.Helper,
	"getStock": people.Helper, "listLots": people.Helper, "getLot": people.Helper, "actOnLot": people.Helper,
	"freezeLot": people.Maker, "getSticker": people.Helper, "receive": people.Helper, "lookOver": people.Helper,
	"readDelivery": people.Helper, "lotsForBatch": people.Helper,
	"listParties": people.Helper, "addParty": people.Maker, "putParty": people.Maker,
	"listMeterChecks": people.Helper, "addMeterCheck": people.Helper, "closeMeterCheck": people.Helper,
	"listEvidence": people.Helper, "getEvidence": people.Helper, "attachEvidence": people.Owner,
	"withdrawEvidence": people.Owner,
	"listLabels":       people.Helper, "getLabel": people.Helper, "addLabel": people.Maker, "putLabel": people.Maker,
	"printLabel": people.Maker, "answerLabel": people.Maker, "spoilLabels": people.Maker, "getArtwork": people.Maker,
	"getMark": people.Helper, "putMark": people.Owner, "dropMark": people.Owner,
	"getBundle": people.Maker, "postBundle": people.Owner,
	"getBackups": people.Owner, "makeBackup": people.Owner, "getBackupFile": people.Owner,
}

// known is the person who sent a request, or why that could not be told.
type known struct {
	who people.Person
	err error
}

// knows admits a request if it fits the contract and its sender's role allows the operation. An operation that is
// missing from asked is refused to everybody. The sender and the contract are checked at the same time; if both fail,
// the answer is about the sender.
func (s *server) knows(routes map[string]*routers.Route) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			route := routes[asGet(r).Method+" "+c.Path()]
			role, named := asked[nameOf(route)]
			if named && role == everybody {
				if err := valid(c, route); err != nil {
					return err
				}
				return next(c)
			}
			found := make(chan known, 1)
			ctx, token := r.Context(), tokenOf(r)
			writes := r.Method != http.MethodGet && r.Method != http.MethodHead
			go func() {
				who, err := s.app.Office.Known(ctx, token, writes)
				found <- known{who, err}
			}()
			unfit := valid(c, route)
			k := <-found
			switch {
			case k.err != nil:
				return k.err
			case writes && otherHands(r, k.who):
				return office.OtherHands(k.who)
			case !named || !k.who.Role.May(role):
				return kernel.NotYours(k.who, role, "This")
			case unfit != nil:
				return unfit
			}
			c.SetRequest(c.Request().WithContext(kernel.As(c.Request().Context(), k.who)))
			return next(c)
		}
	}
}

func otherHands(r *http.Request, who people.Person) bool {
	shown := r.Header.Get(handsHeader)
	name, err := url.PathUnescape(shown)
	return shown != "" && (err != nil || name != who.Name)
}

func tokenOf(r *http.Request) string {
	cookie, err := r.Cookie(CookieName)
	if err != nil {
		return ""
	}
	return cookie.Value
}

// remember sets the cookie with the session's token.
func remember(c *echo.Context, token string) {
	life := 0
	if token == "" {
		life = -1
	}
	c.SetCookie(&http.Cookie{Name: CookieName, Value: token, Path: "/", HttpOnly: true, MaxAge: life,
		SameSite: http.SameSiteStrictMode, Secure: c.Request().TLS != nil})
}

func (s *server) GetSession(c *echo.Context) error { return s.session(c, tokenOf(c.Request())) }

func (s *server) session(c *echo.Context, token string) error {
	v, err := s.app.Office.SessionHere(c.Request().Context(), token)
	if s.madeUp != nil {
		v.Made = s.madeUp
	}
	return answer(c, v, err)
}

func (s *server) SignIn(c *echo.Context) error {
	in, err := body[Secret](c)
	if err != nil {
		return err
	}
	return s.signIn(c, in)
}

// signIn opens a session and ends the browser's earlier one.
func (s *server) signIn(c *echo.Context, in Secret) error {
	ctx := c.Request().Context()
	token, err := s.app.Office.SignIn(ctx, in.Name, in.Secret)
	if err != nil {
		return err
	}
	if before := tokenOf(c.Request()); before != "" {
		if err := s.app.Office.SignOut(ctx, before); err != nil {
			return err
		}
	}
	remember(c, token)
	return s.session(c, token)
}

func (s *server) SignOut(c *echo.Context) error {
	err := s.app.Office.SignOut(c.Request().Context(), tokenOf(c.Request()))
	if err == nil {
		remember(c, "")
	}
	return done(c, err)
}

func (s *server) FirstOwner(c *echo.Context) error {
	in, err := body[Secret](c)
	if err != nil {
		return err
	}
	if _, err := s.app.Office.FirstOwner(c.Request().Context(), in.Name, in.Secret); err != nil {
		return err
	}
	in.Name = strings.TrimSpace(in.Name)
	return s.signIn(c, in)
}

// signInOnce handles an address that signs a person in a single time and redirects to the first screen. A used address
// redirects too; whoever is not signed in then meets the door.
func (s *server) signInOnce(c *echo.Context) error {
	token, err := s.app.Office.UseSingleSignIn(c.Request().Context(), c.Param("token"))
	if err == nil {
		remember(c, token)
	}
	return c.Redirect(http.StatusSeeOther, "/")
}

func (s *server) ListPeople(c *echo.Context) error {
	v, err := s.app.Office.People(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddPerson(c *echo.Context, _ AddPersonParams) error {
	in, err := body[AddPersonJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Office.AddPerson(c.Request().Context(), in.Name, people.Role(in.Role), in.Secret)
	return answer(c, v, err)
}

func (s *server) ChangePerson(c *echo.Context, id int64) error {
	in, err := body[office.PersonChange](c)
	if err != nil {
		return err
	}
	v, err := s.app.Office.ChangePerson(c.Request().Context(), id, in)
	return answer(c, v, err)
}
