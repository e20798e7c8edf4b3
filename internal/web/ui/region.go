package ui

import "golang.org/x/text/language"

// RegionOf is the country whose numbers a person is likely to write without its code, from the languages of the browser.
func RegionOf(accept string) string {
	tags, _, err := language.ParseAcceptLanguage(accept)
	if err == nil {
		for _, t := range tags {
			if region, sure := t.Region(); sure == language.Exact && len(region.String()) == 2 {
				return region.String()
			}
		}
	}
	return "GB"
}
