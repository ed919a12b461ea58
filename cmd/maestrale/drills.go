package main

import (
	"github.com/spf13/cobra"
)

func drillsCommand() *cobra.Command {
	var key, school string
	c := &cobra.Command{
		Use:   "drills [--drill KEY]",
		Short: "Prints the drill catalogue as YAML",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			cat, err := catalogue(school)
			if err != nil {
				return err
			}
			data := cat.YAML()
			if key != "" {
				d, err := cat.Drill(key)
				if err != nil {
					return err
				}
				data = d.Source
			}
			_, err = c.OutOrStdout().Write(data)
			return err
		},
	}
	c.Flags().StringVar(&key, "drill", "", "only this drill")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	return c
}
