// Command myriapod is the whole application: the server with its page, and the same work headless.
package main

import (
	"context"
	"fmt"
	"os"
	"strings"
)

func main() {
	if err := newRoot(os.Stdout, os.Stderr).ExecuteContext(context.Background()); err != nil {
		// One line, whatever the error holds, so that scripts can show it.
		fmt.Fprintln(os.Stderr, "myriapod: "+strings.Join(strings.Fields(err.Error()), " "))
		os.Exit(1)
	}
}
