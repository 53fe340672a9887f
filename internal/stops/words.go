package stops

import "github.com/danielgtaylor/huma/v2/validation"

// tooShort is what is said of a text that has fewer characters than it needs; of one that
// needs only some, that it is missing.
const tooShort = "is too short: characters it needs at least: "

// What huma says of a request that isn't as its description wants, in words for whoever
// filled in a form: they stand beside the field.
func init() {
	validation.MsgUnexpectedProperty = "isn't known here"
	validation.MsgExpectedBoolean = "must be true or false"
	validation.MsgExpectedNumber = "must be a number"
	validation.MsgExpectedInteger = "must be a whole number"
	validation.MsgExpectedString = "must be a text"
	validation.MsgExpectedArray = "must be a list"
	validation.MsgExpectedObject = "must be an object"
	validation.MsgExpectedRFC3339DateTime = "must be a moment such as 2026-03-03T08:40:00Z"
	validation.MsgExpectedRFC3339Date = "must be a day such as 2026-03-03"
	validation.MsgExpectedOneOf = "must be one of %s"
	validation.MsgExpectedMinimumNumber = "must be at least %v"
	validation.MsgExpectedMaximumNumber = "must be at most %v"
	validation.MsgExpectedMinLength = tooShort + "%d"
	validation.MsgExpectedMaxLength = "is too long: characters it may have at most: %d"
	validation.MsgExpectedMinItems = "is too short a list: items it needs at least: %d"
	validation.MsgExpectedMaxItems = "is too long a list: items it may have at most: %d"
	validation.MsgExpectedRequiredProperty = "%s is missing"
}
