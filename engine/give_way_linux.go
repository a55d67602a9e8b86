package engine

import "syscall"

// niceness of a thread that gives way (nice(2)): it has a tenth of a usual thread's share of a busy processor.
const niceness = 10

// giveWay lets the present thread wait for others; where that is forbidden it goes on as it is.
func giveWay() { _ = syscall.Setpriority(syscall.PRIO_PROCESS, syscall.Gettid(), niceness) }
