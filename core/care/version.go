package care

// Rules is the version of all that decides where a task stands: intervals, clocks, schools, what falls out of a water
// and what it does in a machine. A standing that is kept by an older one is worked out anew before anybody is told of
// it. Raise it whenever standings move; TestStandingsMoveWithTheRules says when that is.
const Rules = 1
