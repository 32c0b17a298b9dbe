package loopback

import "golang.org/x/sys/windows"

// errTaken is what the system says of a port that another program listens at.
const errTaken = windows.WSAEADDRINUSE
