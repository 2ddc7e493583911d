// Prairie-dusk runs the service and is its command line.
package main

import (
	"context"
	"os"
	"os/signal"
	"syscall"

	"prairiedusk/internal/cli"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer stop()
	os.Exit(cli.Run(ctx, os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
