// Package kinds is the list of all kinds of mechanisms, drivers and measures: one line each.
package kinds

import (
	"myriapod/core/driver"
	"myriapod/core/measure"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/aim"
	"myriapod/core/mechanism/bars"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/fkover"
	"myriapod/core/mechanism/follow"
	"myriapod/core/mechanism/foot"
	"myriapod/core/mechanism/gear"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/hose"
	"myriapod/core/mechanism/laidcurve"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/prop"
	"myriapod/core/mechanism/rack"
	"myriapod/core/mechanism/ram"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/mechanism/ride"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/squashbox"
	"myriapod/core/mechanism/step"
	"myriapod/core/mechanism/track"
	"myriapod/core/mechanism/wave"
	"myriapod/core/mechanism/wheel"
)

// All returns every kind in the order the interface offers them.
func All() mechanism.Registry { return all }

var all = mechanism.NewRegistry([]mechanism.Kind{
	splinechain.Kind{},
	ribbonchain.Kind{},
	fkchain.Kind{},
	fkover.Kind{},
	wave.Kind{},
	limb.Kind{},
	foot.Kind{},
	step.Kind{},
	ground.Kind{},
	settle.Kind{},
	aim.Kind{},
	follow.Kind{},
	squashbox.Kind{},
	hinge.Kind{},
	hinge.Slide{},
	bars.Kind{},
	ram.Kind{},
	wheel.Kind{},
	gear.Kind{},
	rack.Kind{},
	track.Kind{},
	hose.Kind{},
	laidcurve.Kind{},
	ride.Kind{},
	prop.Kind{},
}, []mechanism.DriverKind{
	driver.Link{},
	driver.Lag{},
	driver.Formula{},
	driver.Response{},
}, []mechanism.MeasureKind{
	measure.Distance{},
	measure.Angle{},
	measure.Height{},
	measure.Speed{},
	measure.Way{},
})
