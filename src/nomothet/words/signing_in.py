"""What was changed about how somebody signs in, in words for whom it concerns."""

CHANGED = {
    "password set": "your password was changed",
    "second factor on": "a second factor was set",
    "second factor off": "the second factor was taken off",
    "recovery codes made": "new recovery codes were made",
    "recovery code used": "a recovery code was used to sign in",
    "token made": "a personal token was made",
    "reset offered": "an admin made a link that sets a new password",
    "role set": "your role was changed",
}
