// Mutate changes one operator or constant at a time in packages that only compute and
// runs the package's own tests on a copy: a change that no test notices is printed. It
// says how many were noticed, and fails under a share that is asked for.
//
//	scripts/mutate [-n 300] [-seed 1] [-least 0.8] PACKAGE...
package main

import (
	"bytes"
	"context"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// mutation is a change of some bytes of a file.
type mutation struct {
	file     string
	at       int
	was, now string
	line     int
}

var operators = map[token.Token]token.Token{
	token.ADD: token.SUB, token.SUB: token.ADD, token.MUL: token.QUO, token.QUO: token.MUL, token.REM: token.MUL,
	token.LSS: token.LEQ, token.LEQ: token.LSS, token.GTR: token.GEQ, token.GEQ: token.GTR, token.EQL: token.NEQ, token.NEQ: token.EQL,
	token.LAND: token.LOR, token.LOR: token.LAND, token.AND: token.OR, token.OR: token.AND, token.SHL: token.SHR, token.SHR: token.SHL,
	token.INC: token.DEC, token.DEC: token.INC, token.ADD_ASSIGN: token.SUB_ASSIGN, token.SUB_ASSIGN: token.ADD_ASSIGN,
}

func main() {
	n := flag.Int("n", 300, "how many changes")
	seed := flag.Uint64("seed", 1, "which changes")
	least := flag.Float64("least", 0.8, "the share that is to be noticed")
	patience := flag.Duration("patience", 2*time.Minute, "how long the tests of a package may take; a change that makes them take longer is noticed")
	flag.Parse()
	if err := run(*n, *seed, *least, *patience, flag.Args()); err != nil {
		fmt.Fprintln(os.Stderr, "mutate:", err)
		os.Exit(1)
	}
}

func run(n int, seed uint64, least float64, patience time.Duration, packages []string) error {
	copied, err := os.MkdirTemp("", "sparecrate-mutate-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(copied) }()
	if out, err := exec.Command("sh", "-c", `git ls-files -z | xargs -0 cp --parents -t "$1"`, "sh", copied).CombinedOutput(); err != nil { //nolint:gosec,noctx // our own folder
		return fmt.Errorf("copy the sources: %w: %s", err, out)
	}
	var all []mutation
	for _, p := range packages {
		found, err := mutationsOf(copied, p)
		if err != nil {
			return err
		}
		all = append(all, found...)
	}
	random := rand.New(rand.NewPCG(seed, seed)) //nolint:gosec // the same choice each time
	random.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	all = all[:min(n, len(all))]
	noticed, built := 0, 0
	for _, m := range all {
		is, compiles, err := try(copied, m, patience)
		if err != nil {
			return err
		}
		if !compiles {
			continue
		}
		built++
		if is {
			noticed++
			continue
		}
		fmt.Printf("not noticed: %s:%d: %s became %s\n", m.file, m.line, m.was, m.now)
	}
	if built == 0 {
		return fmt.Errorf("nothing to change in %s", strings.Join(packages, ", "))
	}
	share := float64(noticed) / float64(built)
	fmt.Printf("%d of %d changes noticed (%.0f %%)\n", noticed, built, 100*share)
	if share < least {
		return fmt.Errorf("fewer than %.0f %% were noticed", 100*least)
	}
	return nil
}

// mutationsOf returns every change there is in a package's files.
func mutationsOf(root, folder string) ([]mutation, error) {
	files, err := filepath.Glob(filepath.Join(root, folder, "*.go"))
	if err != nil {
		return nil, err
	}
	var out []mutation
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") || strings.HasSuffix(file, ".gen.go") {
			continue
		}
		name, err := filepath.Rel(root, file)
		if err != nil {
			return nil, err
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, file, nil, parser.SkipObjectResolution)
		if err != nil {
			return nil, err
		}
		add := func(pos token.Pos, was, now string) {
			p := set.Position(pos)
			out = append(out, mutation{name, p.Offset, was, now, p.Line})
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.ImportSpec, *ast.Field: // a field's tag or an array's length is no behavior
				return false
			case *ast.BinaryExpr:
				if to, is := operators[n.Op]; is {
					add(n.OpPos, n.Op.String(), to.String())
				}
			case *ast.IncDecStmt:
				add(n.TokPos, n.Tok.String(), operators[n.Tok].String())
			case *ast.AssignStmt:
				if to, is := operators[n.Tok]; is {
					add(n.TokPos, n.Tok.String(), to.String())
				}
			case *ast.BasicLit:
				if v, err := strconv.ParseInt(n.Value, 0, 64); err == nil && n.Kind == token.INT {
					add(n.ValuePos, n.Value, strconv.FormatInt(v+1, 10))
				}
			}
			return true
		})
	}
	return out, nil
}

// try makes a change, runs the package's tests, and takes the change back.
func try(root string, m mutation, patience time.Duration) (noticed, compiles bool, err error) {
	path := filepath.Join(root, m.file)
	was, err := os.ReadFile(path) //nolint:gosec // in our own folder
	if err != nil {
		return false, false, err
	}
	now := bytes.Join([][]byte{was[:m.at], []byte(m.now), was[m.at+len(m.was):]}, nil)
	if err := os.WriteFile(path, now, 0o600); err != nil {
		return false, false, err
	}
	defer func() {
		if bad := os.WriteFile(path, was, 0o600); err == nil {
			err = bad
		}
	}()
	ctx, stop := context.WithTimeout(context.Background(), patience)
	defer stop()
	cmd := exec.CommandContext(ctx, "go", "test", "-failfast", "./"+filepath.Dir(m.file)) //nolint:gosec // our own tests
	cmd.Dir = root
	out, failed := cmd.CombinedOutput()
	return failed != nil, !bytes.Contains(out, []byte("[build failed]")) && !bytes.Contains(out, []byte("[setup failed]")), nil
}
