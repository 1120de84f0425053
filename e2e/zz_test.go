package e2e

import (
	"os"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

func (p *page) pic(name string) {
	raw, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	_ = os.MkdirAll("/tmp/shots", 0o755)
	require.NoError(p.t, os.WriteFile("/tmp/shots/"+name+".png", raw, 0o644))
}

func TestZZ(t *testing.T) {
	s := serve(t, true)
	p := open(t, s, 1280, 800)
	p.visit("/plan/lentil_tahini_dip/1?jars=96")
	p.sees("What to get")
	p.pic("plan1")
	p.visit("/plan/beetroot_horseradish_dip/2?jars=5")
	p.sees("Too little")
	p.pic("plan2")
	p.visit("/plan/carrot_miso_dressing/3?jars=60")
	p.sees("What to get")
	p.pic("plan3")
}
