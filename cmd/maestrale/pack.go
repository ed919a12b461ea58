package main

import (
	"fmt"
	"math"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/preflight"
)

// packOutput is maestrale-pack/1.
type packOutput struct {
	Format     string      `json:"format"`
	Craft      string      `json:"craft"`
	Chemistry  string      `json:"chemistry"`
	Cells      int         `json:"cells"`
	Charge     float64     `json:"charge"`
	RestV      float64     `json:"rest_v"`
	SpreadV    *float64    `json:"spread_v,omitempty"`
	Density    float64     `json:"density_kgm3"`
	Merit      float64     `json:"merit"`
	IdealW     float64     `json:"ideal_hover_w"`
	HoverW     float64     `json:"hover_w"`
	HoverV     float64     `json:"hover_v"`
	HoverA     float64     `json:"hover_a"`
	LandCellV  float64     `json:"land_cell_v"`
	Reserve    float64     `json:"reserve"`
	HoverS     float64     `json:"hover_s"`
	WindMps    float64     `json:"wind_mps"`
	WindW      float64     `json:"wind_w"`
	WindS      float64     `json:"wind_s"`
	LeanDeg    float64     `json:"lean_deg"`
	HomeM      float64     `json:"home_m"`
	HomeDeg    float64     `json:"home_worst_bearing_deg"`
	HomeRingM  [36]float64 `json:"home_ring_m"`
	Packs      *int        `json:"packs,omitempty"`
	ChargeMin  float64     `json:"charge_minutes"`
	WarmC      float64     `json:"warm_c"`
	CoolMin    float64     `json:"cool_minutes"`
	StorageV   float64     `json:"storage_cell_v"`
	WindFromLn *leanOutput `json:"wind_from_lean,omitempty"`
}

type leanOutput struct {
	WindMps float64 `json:"wind_mps"`
	ExtraW  float64 `json:"extra_w"`
}

type packFlags struct {
	craftKey, volts, wind, school, format string
	cells                                 string
	elevation, temp, height, returnM      float64
	lesson, reserve, chargeC, lean        float64
}

func packCommand() *cobra.Command {
	var p packFlags
	c := &cobra.Command{
		Use: "pack --craft KEY [--volts V | --cells V,V,…] [--wind MPS@FROM_DEG] [--elevation M] [--temp C] [--lesson " +
			"MINUTES]",
		Short: "Pack arithmetic: charge, hover, endurance in wind, landing volts, the way home, charging",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&p.craftKey, "craft", "", "key of the craft type")
	f.StringVar(&p.volts, "volts", "", "volts of the rested pack (default full)")
	f.StringVar(&p.cells, "cells", "", "volts of each rested cell, parted by commas, spaces or slashes")
	f.StringVar(&p.wind, "wind", "", "MPS@FROM_DEG in field headings")
	f.Float64Var(&p.elevation, "elevation", 0, "metres above sea level")
	f.Float64Var(&p.temp, "temp", math.NaN(), "air in °C (default the standard atmosphere's)")
	f.Float64Var(&p.height, "height", 3, "height flown at in metres")
	f.Float64Var(&p.returnM, "return-height", pack.ReturnM, "return height in metres")
	f.Float64Var(&p.reserve, "reserve", pack.Reserve, "share of the capacity left at the landing")
	f.Float64Var(&p.lesson, "lesson", 0, "minutes to fly, for the packs needed")
	f.Float64Var(&p.chargeC, "charge-c", 0, "charging current over capacity (default what the type allows)")
	f.Float64Var(&p.lean, "lean", 0, "steady lean in degrees, for the wind up there")
	f.StringVar(&p.school, "school", "", "folder of the school's own YAML files")
	f.StringVar(&p.format, "format", "json", "json or table")
	c.RunE = func(c *cobra.Command, _ []string) error {
		out, err := p.reckon()
		if err != nil {
			return err
		}
		if p.format == "table" {
			return packTable(c, out)
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

func (p packFlags) reckon() (out packOutput, err error) {
	if err := p.check(); err != nil {
		return out, err
	}
	cat, err := catalogue(p.school)
	if err != nil {
		return out, err
	}
	t, err := craftNamed(cat, p.craftKey)
	if err != nil {
		return out, err
	}
	var temp *float64
	if !math.IsNaN(p.temp) {
		temp = &p.temp
	}
	density, err := pack.StandardDensity(p.elevation, temp)
	if err != nil {
		return out, err
	}
	l, err := pack.NewLifter(t, density)
	if err != nil {
		return out, err
	}
	f, spread, err := p.filling(t)
	if err != nil {
		return out, err
	}
	out = packOutput{Format: "maestrale-pack/1", Craft: t.Key, Chemistry: string(f.Chemistry), Cells: f.Cells,
		Charge: f.Charge, RestV: f.RestVolts(), SpreadV: spread, Density: density,
		Merit: l.Merit, IdealW: l.IdealHover(), HoverW: l.Hover(), Reserve: p.reserve,
		StorageV: pack.StorageVolts(f.Chemistry)}
	out.HoverV, out.HoverA, _ = f.Loaded(out.HoverW)
	out.LandCellV, _ = pack.LandVolts(f, out.HoverW, p.reserve)
	out.HoverS = f.Seconds(out.HoverW, p.reserve)
	var from float64
	if p.wind != "" {
		if out.WindMps, from, err = windFlag(p.wind); err != nil {
			return out, err
		}
	}
	out.WindW, out.LeanDeg = l.Level(out.WindMps), field.Angle(l.Lean(out.WindMps)).Deg()
	out.WindS = f.Seconds(out.WindW, p.reserve)
	limits := t.Limits[t.Aids[0]]
	home := pack.Farthest(l, f, pack.Trip{HeightM: p.height, ReturnM: p.returnM, WindMps: out.WindMps,
		From: field.Degrees(from), SpeedMps: math.Max(1, limits.SpeedMps),
		ClimbMps: math.Max(0.5, limits.ClimbMps), DescendMps: math.Max(0.5, limits.DescendMps), Reserve: p.reserve})
	out.HomeM, out.HomeDeg, out.HomeRingM = home.WorstM, home.Toward.Compass(), home.Ring
	if p.lesson > 0 {
		n, err := pack.Packs(p.lesson, out.WindS/60)
		if err != nil {
			return out, err
		}
		out.Packs = &n
	}
	if p.lean > 0 {
		mps, extra := l.WindFromLean(float64(field.Degrees(p.lean)))
		out.WindFromLn = &leanOutput{mps, extra}
	}
	return out, p.charging(&out, t, f, temp)
}

// check refuses flags that are out of their range.
func (p packFlags) check() error {
	if p.format != "json" && p.format != "table" {
		return fmt.Errorf("--format is %q; expected json or table", p.format)
	}
	for name, v := range map[string][3]float64{"reserve": {p.reserve, 0, 0.9}, "height": {p.height, 0, 1000},
		"return-height": {p.returnM, 0, 1000}, "lesson": {p.lesson, 0, 10_000}, "lean": {p.lean, 0, 60}} {
		if !(v[0] >= v[1] && v[0] <= v[2]) {
			return fmt.Errorf("--%s is %v; expected %v to %v", name, v[0], v[1], v[2])
		}
	}
	return nil
}

// filling reads how full the pack is.
func (p packFlags) filling(t craft.Type) (pack.Filling, *float64, error) {
	f, err := pack.NewFilling(t.Battery, 0)
	switch {
	case err != nil:
		return f, nil, err
	case p.volts != "" && p.cells != "":
		return f, nil, fmt.Errorf("both --volts and --cells are given; expected one")
	case p.volts != "":
		v, err := preflight.ReadCells(p.volts)
		if err != nil || len(v) != 1 {
			return f, nil, fmt.Errorf("--volts is %q; expected the volts of the pack", p.volts)
		}
		f, err = pack.NewFilling(t.Battery, v[0])
		return f, nil, err
	case p.cells != "":
		v, err := preflight.ReadCells(p.cells)
		if err != nil {
			return f, nil, fmt.Errorf("--cells: %w", err)
		}
		if len(v) != f.Cells {
			return f, nil, fmt.Errorf("--cells names %d; expected %d for %s", len(v), f.Cells, t.Title)
		}
		mean, spread, err := pack.CheckCells(f.Chemistry, v)
		f.Charge = pack.Charge(f.Chemistry, mean)
		return f, &spread, err
	}
	return f, nil, nil
}

func (p packFlags) charging(out *packOutput, t craft.Type, f pack.Filling, temp *float64) error {
	rate := p.chargeC
	if rate == 0 {
		rate = math.Max(1, t.Battery.MaxChargeC)
	}
	empty := f
	empty.Charge = p.reserve
	c, err := pack.ChargeTime(empty, 1, rate)
	if err != nil {
		return err
	}
	out.ChargeMin = c.Minutes
	ambient := air.StandardTempC(p.elevation)
	if temp != nil {
		ambient = *temp
	}
	if m := t.Battery.MassKg; m > 0 {
		out.WarmC = pack.WarmC(f, m, ambient, out.HoverA, out.HoverS)
		if out.CoolMin, err = pack.CoolMinutes(m, out.WarmC, pack.ChargeBelowC, ambient); err != nil {
			return err
		}
	}
	return nil
}

func packTable(c *cobra.Command, o packOutput) error {
	w := tabwriter.NewWriter(c.OutOrStdout(), 0, 4, 2, ' ', 0)
	fmt.Fprintf(w, "%s\t%.0f %% charged, rests at %.2f V\n", o.Craft, 100*o.Charge, o.RestV)
	fmt.Fprintf(w, "hover\t%.0f W (ideal %.0f W), %.1f A at %.2f V, %.1f min above the reserve\n", o.HoverW, o.IdealW,
		o.HoverA, o.HoverV, o.HoverS/60)
	fmt.Fprintf(w, "in %.1f m/s\t%.0f W, leaning %.0f°, %.1f min\n", o.WindMps, o.WindW, o.LeanDeg, o.WindS/60)
	fmt.Fprintf(w, "land at\t%.2f V a cell under load\n", o.LandCellV)
	fmt.Fprintf(w, "gets home from\t%.0f m in the worst direction (bearing %.0f°)\n", o.HomeM, o.HomeDeg)
	if o.Packs != nil {
		fmt.Fprintf(w, "packs\t%d\n", *o.Packs)
	}
	if o.WindFromLn != nil {
		fmt.Fprintf(w, "that lean\t%.1f m/s of wind, %.0f W more\n", o.WindFromLn.WindMps, o.WindFromLn.ExtraW)
	}
	fmt.Fprintf(w, "charging\t%.0f min from the reserve, after %.0f min of cooling from %.0f °C; store at %.2f V a "+
		"cell\n",
		o.ChargeMin, o.CoolMin, o.WarmC, o.StorageV)
	return w.Flush()
}
