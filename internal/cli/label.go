package cli

import (
	"cmp"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/client"
	"prairiedusk/internal/core/numfmt"
)

func newLabel(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "label",
		Short: "Decisions written beside orders, by rule; each is a field of theirs",
		Example: `  prairie-dusk label list
  prairie-dusk label try payment --when 'paid: paid != null' --when 'part paid: part_paid' --rest 'not paid'
  prairie-dusk label save overdue --when 'overdue: promised < data_date && shipped == null' --rest 'in time'
  prairie-dusk took --by payment`,
	}
	cmd.AddCommand(newLabelList(e), newLabelTry(e), newLabelSave(e), newLabelDelete(e))
	return cmd
}

func newLabelList(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "list",
		Short: "The labels, with how many orders have each of their texts",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.Labels(cmd.Context())
			if err != nil {
				return err
			}
			return e.print(cmd, labelsSheet("Labels, with how many orders have each text.", answer, answer.Labels))
		},
	}
	addFormat(cmd)
	return cmd
}

// labelsSheet has a row for each text of each label, in the order in which its conditions are asked.
func labelsSheet(title string, answer any, all []api.Label) sheet {
	s := sheet{title: title, answer: answer, columns: []column{{name: "label"}, {name: "text"}, {name: "where", wraps: true},
		{name: "orders", numeric: true}}}
	for _, l := range all {
		orders := map[string]string{}
		for _, c := range l.Counts {
			orders[c.Text] = numfmt.Count(c.Orders)
		}
		add := func(text, where string) {
			s.rows = append(s.rows, []string{l.Name, text, where, orders[text]})
			delete(orders, text) // one that stands twice is counted once
		}
		for _, r := range l.Definition.Rules {
			add(r.Text, r.Where)
		}
		if l.Definition.Rest != "" {
			add(l.Definition.Rest, "else")
		}
		if l.Definition.Missing != "" {
			add(l.Definition.Missing, "where it cannot be decided")
		}
		if none := orders[""]; none != "" && none != "0" {
			add("", "no text")
		}
		if l.Problem != "" {
			s.below = append(s.below, notePrefix+"the label "+l.Name+" cannot be decided: "+l.Problem)
		}
	}
	if len(all) == 0 {
		s.below = append(s.below, "There are none yet. One is made by prairie-dusk label save, or on the page Labels.")
	}
	return s
}

// labelFlags are what a label is made of.
type labelFlags struct {
	when          []string
	rest, missing string
}

func (l *labelFlags) add(cmd *cobra.Command) {
	flags := cmd.Flags()
	flags.StringArrayVar(&l.when, "when", nil, "a text and the condition for it, in CEL: '`TEXT: CONDITION`'; the first that holds counts")
	flags.StringVar(&l.rest, "rest", "", "`text` where no condition holds; default none")
	flags.StringVar(&l.missing, "missing", "", "`text` where it cannot be decided, since a condition lacks what it asks about; default none")
	addFormat(cmd)
}

func (l *labelFlags) definition() (d api.LabelDefinition, err error) {
	d = api.LabelDefinition{Rules: []api.LabelRule{}, Rest: l.rest, Missing: l.missing}
	for _, when := range l.when {
		text, where, found := strings.Cut(when, ": ")
		if !found {
			return d, usageError{fmt.Errorf("--when %q has no colon; want a text, a colon and a condition: 'paid: paid != null'", when)}
		}
		d.Rules = append(d.Rules, api.LabelRule{Where: strings.TrimSpace(where), Text: strings.TrimSpace(text)})
	}
	return d, nil
}

// newLabelWriting is a command that hands a written label to the service and prints what comes of it.
func newLabelWriting(e *environment, use, short string, hand func(cmd *cobra.Command, c *client.Client, name string,
	d api.LabelDefinition) (answer *api.Label, title string, err error)) *cobra.Command {
	var flags labelFlags
	cmd := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		d, err := flags.definition()
		if err != nil {
			return err
		}
		c, err := e.client()
		if err != nil {
			return err
		}
		answer, title, err := hand(cmd, c, args[0], d)
		if err != nil {
			return err
		}
		return e.print(cmd, labelsSheet(title, answer, []api.Label{*answer}))
	}}
	flags.add(cmd)
	return cmd
}

func newLabelTry(e *environment) *cobra.Command {
	return newLabelWriting(e, "try NAME", "How many orders would have each text of a label, without keeping it",
		func(cmd *cobra.Command, c *client.Client, name string, d api.LabelDefinition) (*api.Label, string, error) {
			answer, err := c.TryLabel(cmd.Context(), name, d)
			return answer, "The label " + name + ", tried on all orders; nothing is saved.", err
		})
}

func newLabelSave(e *environment) *cobra.Command {
	var replace bool
	cmd := newLabelWriting(e, "save NAME", "Keep a label; orders have it as a field from then on",
		func(cmd *cobra.Command, c *client.Client, name string, d api.LabelDefinition) (answer *api.Label, title string, err error) {
			err = e.unlessTaken(cmd, replace, func(replace bool) error {
				answer, err = c.SaveLabel(cmd.Context(), name, d, replace)
				return err
			})
			if err != nil {
				return nil, "", err
			}
			return answer, "The label " + answer.Name + " is saved; it is a field of orders.", nil
		})
	cmd.Flags().BoolVar(&replace, "replace", false, "put it in the place of a label of its name")
	return cmd
}

func newLabelDelete(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "delete NAME",
		Short: "Forget a label",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.DeleteLabel(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			return e.print(cmd, labelsSheet("The label "+args[0]+" is gone. These are left.", answer, answer.Labels))
		},
	}
	addFormat(cmd)
	return cmd
}

// unlessTaken keeps something under a name; where the name is taken, it asks whether to replace what is there.
func (e *environment) unlessTaken(cmd *cobra.Command, replace bool, save func(replace bool) error) error {
	err := save(replace)
	var problem *client.Problem
	if replace || !errors.As(err, &problem) || problem.Status != conflict {
		return err
	}
	if !asksAtTerminal(cmd, cmp.Or(problem.Detail, problem.Title)+". Replace it?") {
		return fmt.Errorf("%w; add --replace to overwrite it, or choose another name", err)
	}
	return save(true)
}
