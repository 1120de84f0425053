package e2e

import (
	"path/filepath"
	"testing"
	"time"
)

const zzTalk = `[00:00] Okay so the smoky carrot and walnut spread, that's the one we do on Fridays.
[00:06] You start with six large carrots, peeled, no wait, five. And a can of chickpeas, drained.
[00:15] About a cup of walnuts, toasted, and let them cool down. My mother always used almonds.
[00:24] Two tablespoons of tahini and three tablespoons of lime juice, so that's about two limes.
[00:31] A clove of garlic, maybe two. A teaspoon and a half of smoked paprika, half a teaspoon of cumin.
[00:42] Then a third of a cup of rapeseed oil, a good pinch of salt and one of our small spoons of the red paste.
[00:51] If I double it I keep the garlic at two cloves. No sugar, the carrots are sweet enough.
[00:58] Blend it until it's smooth. It makes eight jars, no, nine jars, and it keeps three weeks in the fridge.
[01:10] Next the peanut lime sauce. Two hundred grams of peanuts, roasted, a spoon of honey, 2 eggs and the juice of two limes.`

func TestZZ(t *testing.T) {
	p := open(t, serve(t, true), 1280, 800)
	shot := func(name string) { time.Sleep(500 * time.Millisecond); p.shot(filepath.Join("/tmp/shots", name+".png")) }
	p.visit("/reader")
	p.sees("Read so far")
	p.fill("Paste it, or write it down as you would say it", zzTalk)
	p.click("Read it")
	p.sees("g into the bowl")
	shot("reader1")
	p.click("read each by itself")
	p.sees("waits in the Reader")
	time.Sleep(300 * time.Millisecond)
	p.click("400 g")
	p.sees("Remembered for the shop")
	shot("reader2")
	p.visit("/reader")
	p.sees("What your words mean")
	shot("reader3")
	p.click("tell it a word")
	p.click("a spoon or glass")
	shot("reader4")
}
