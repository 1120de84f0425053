package told

func tellDelivery(_ Change, _, after row) string {
	said := "took in a delivery of " + after.text("supplier")
	if note := after.text("note"); note != "" {
		said += ", note " + note
	}
	return said
}

func tellLot(_ Change, _, after row) string {
	switch after.text("kind") {
	case "part":
		return "parted a lot off as " + after.text("code")
	case "batch":
		return "gave it the code " + after.text("code")
	}
	return "took in a lot as " + after.text("code")
}

func tellParty(_ Change, before, after row) string {
	switch {
	case before == nil:
		return "added " + after.text("name") + " to those who get jars"
	case retiredNow(before, after):
		return "retired " + after.text("name")
	}
	return "changed " + after.text("name")
}
