package cli

import (
	"bufio"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/escape"
)

const conflict = http.StatusConflict

func newView(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "view",
		Short: "Saved views: questions under a name",
		Example: `  prairie-dusk orders --where 'paid == null' --sort -value --save-view 'Unpaid'
  prairie-dusk view list
  prairie-dusk view run Unpaid
  prairie-dusk view run Unpaid --output unpaid.xlsx
  prairie-dusk view copy Unpaid 'Unpaid, by site'`,
	}
	views := func(use, short string, args int, change func(cmd *cobra.Command, c *client.Client, args []string) (*api.Views,
		error)) *cobra.Command {
		sub := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(args), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := change(cmd, c, args)
			if err != nil {
				return err
			}
			return e.print(cmd, viewsSheet(answer))
		}}
		sub.ValidArgsFunction = e.completeView
		addFormat(sub)
		return sub
	}
	cmd.AddCommand(
		newViewRun(e),
		views("list", "The views, with the question that each asks", 0, func(cmd *cobra.Command, c *client.Client,
			_ []string) (*api.Views, error) {
			return c.Views(cmd.Context())
		}),
		views("rename NAME TO", "Give a view another name", 2, func(cmd *cobra.Command, c *client.Client, args []string) (*api.Views,
			error) {
			return c.RenameView(cmd.Context(), args[0], args[1])
		}),
		views("copy NAME TO", "Keep a view under one more name", 2, func(cmd *cobra.Command, c *client.Client, args []string) (*api.Views,
			error) {
			return c.CopyView(cmd.Context(), args[0], args[1])
		}),
		views("delete NAME", "Forget a view", 1, func(cmd *cobra.Command, c *client.Client, args []string) (*api.Views, error) {
			return c.DeleteView(cmd.Context(), args[0])
		}),
	)
	return cmd
}

func viewsSheet(a *api.Views) sheet {
	s := sheet{title: "Saved views", answer: a, columns: []column{{name: "name"}, {name: "page"},
		{name: "asks", wraps: true}}}
	for _, v := range a.Views {
		page, _, _ := strings.Cut(strings.TrimPrefix(v.Address, "/"), "?")
		s.rows = append(s.rows, []string{v.Name, page, v.Sentence})
	}
	if len(a.Views) == 0 {
		s.below = append(s.below, "There are none. Add --save-view NAME to a question, or press Save view in the console.")
	}
	return s
}

// completeView completes the first argument with the names of views.
func (e *environment) completeView(cmd *cobra.Command, args []string, _ string) (names []string, _ cobra.ShellCompDirective) {
	if len(args) == 0 && e.readSettings(cmd, nil) == nil {
		if c, err := e.client(); err == nil {
			if views, err := c.Views(cmd.Context()); err == nil {
				for _, v := range views.Views {
					names = append(names, v.Name)
				}
			}
		}
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}

// The pages of the console that views can be of.
const (
	ordersPage    = "/orders"
	howLongPage   = "/how-long"
	placesPage    = "/places"
	openPage      = "/open"
	statusesPage  = "/statuses"
	immediatePage = "/immediate"
	duePage       = "/due"
	comparePage   = "/compare"
	crosstabPage  = "/crosstab"
)

func newViewRun(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "run NAME",
		Short: "Ask a saved view of the records as they are now",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			view, err := c.View(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			page, query, _ := strings.Cut(view.Address, "?")
			words, err := url.ParseQuery(query)
			if err != nil {
				return fmt.Errorf("the view %q has an address that cannot be read: %w", view.Name, err)
			}
			words.Del("order")   // the sheet that was open beside it
			words.Del("picture") // a terminal draws none
			switch page {
			case ordersPage:
				return e.list(cmd, c, words)
			case howLongPage:
				_, err := e.answer(cmd, c, asking{path: "/took"}, words, showing{})
				return err
			case openPage:
				_, err := e.answer(cmd, c, asking{path: "/open", draw: timelineSheets}, words, showing{})
				return err
			case comparePage, crosstabPage, placesPage:
				words.Del("shade") // nor any ground
				_, err := e.answer(cmd, c, asking{path: page}, words, showing{})
				return err
			case immediatePage:
				a := asking{path: "/immediate"}
				if words.Get("show") == "customers" {
					a.path += "/customers"
					words.Del("by")
					words.Del("orders")
				}
				words.Del("show")
				_, err := e.answer(cmd, c, a, words, showing{})
				return err
			case statusesPage:
				for _, of := range statusQuestions {
					if of.show == words.Get("show") {
						words.Del("show")
						_, err := e.answer(cmd, c, asking{path: "/status/" + of.name}, words, showing{})
						return err
					}
				}
			case duePage:
				_, err := e.answer(cmd, c, asking{path: "/due"}, words, showing{})
				return err
			}
			return fmt.Errorf("the view %q is of the page %s, which is only in the console", view.Name, page)
		},
	}
	addListOutput(cmd)
	cmd.ValidArgsFunction = e.completeView
	return cmd
}

// A viewSaver keeps what a command has asked as a view.
type viewSaver struct {
	name    string
	replace bool
}

func (k *viewSaver) add(cmd *cobra.Command) {
	cmd.Flags().StringVar(&k.name, "save-view", "", "save the question as a view under this `name`; see prairie-dusk view")
	cmd.Flags().BoolVar(&k.replace, "replace", false, "with --save-view, overwrite a view of its name")
}

// asked is what was asked: the page of the console that asks it, its words, and the sentence of the answer.
type asked struct {
	page     string
	words    url.Values
	sentence string
}

// keep keeps the words of a page, once they were answered.
func (k *viewSaver) keep(e *environment, cmd *cobra.Command, c *client.Client, of asked) error {
	if k.name == "" {
		return nil
	}
	// What was not asked for follows its default, then as now.
	for name := range of.words {
		if flag := cmd.Flags().Lookup(name); flag != nil && !flag.Changed {
			of.words.Del(name)
		}
	}
	for word, values := range c.AsOf {
		of.words[word] = values // a view of the book as it was
	}
	address := of.page
	if len(of.words) > 0 {
		address += "?" + of.words.Encode()
	}
	err := e.unlessTaken(cmd, k.replace, func(replace bool) error {
		_, err := c.SaveView(cmd.Context(), k.name, api.ViewContent{Address: address, Sentence: of.sentence}, replace)
		return err
	})
	if err == nil {
		fmt.Fprintf(cmd.ErrOrStderr(), "Saved as %q; prairie-dusk view run asks it again.\n", k.name)
	}
	return err
}

// atTerminal says whether somebody sits there who can answer.
func atTerminal(cmd *cobra.Command) bool {
	in, ok := cmd.InOrStdin().(*os.File)
	return ok && term.IsTerminal(int(in.Fd()))
}

// asksAtTerminal asks a question of whoever sits there; nobody there means no.
func asksAtTerminal(cmd *cobra.Command, question string) bool {
	if !atTerminal(cmd) {
		return false
	}
	fmt.Fprint(cmd.ErrOrStderr(), escape.Shown(question)+" [y/N] ")
	answer, _ := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
	return strings.EqualFold(strings.TrimSpace(answer), "y")
}
