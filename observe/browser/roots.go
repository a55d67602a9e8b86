package browser

import (
	"context"
	"fmt"
	"strings"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/runtime"
)

// openRoots hands the closed shadow roots of the page to watch.js: a person sees what is in them, and no script of another world can.
func (t *tab) openRoots(ctx context.Context) error {
	id, err := t.world(ctx)
	if err != nil {
		return err
	}
	page, err := call(ctx, t.target, dom.GetDocument, dom.GetDocumentParams{Depth: pointer(int64(-1)), Pierce: pointer(true)})
	if err != nil {
		return fmt.Errorf("look for closed shadow roots: %w", err)
	}
	for _, root := range closedRoots(page.Root, nil) {
		object, err := call(ctx, t.target, dom.ResolveNode, dom.ResolveNodeParams{BackendNodeID: root, ExecutionContextID: id})
		if err == nil {
			_, err = call(ctx, t.target, runtime.CallFunctionOn, runtime.CallFunctionOnParams{
				FunctionDeclaration: "function () { oddtick.adopt(this) }", ObjectID: object.Object.ObjectID, Silent: pointer(true),
			})
		}
		if err != nil && !leftMeanwhile(err) {
			return fmt.Errorf("look into a closed shadow root: %w", err)
		}
	}
	return nil
}

// closedRoots are the closed shadow roots within a node, outermost first; those of other documents, in frames, are not the page's.
func closedRoots(n *cdp.Node, into []cdp.BackendNodeID) []cdp.BackendNodeID {
	for _, root := range n.ShadowRoots {
		if root.ShadowRootType == cdp.ShadowRootTypeClosed {
			into = append(into, root.BackendNodeID)
		}
		if root.ShadowRootType != cdp.ShadowRootTypeUserAgent {
			into = closedRoots(root, into)
		}
	}
	for _, c := range n.Children {
		into = closedRoots(c, into)
	}
	return into
}

// leftMeanwhile tells whether a node or its world is no longer there.
func leftMeanwhile(err error) bool {
	says := err.Error()
	for _, gone := range []string{"context with specified id", "context was destroyed", "Inspected target navigated", "No node with given id", "Could not find node", "Node with given id does not belong", "Cannot find context"} {
		if strings.Contains(says, gone) {
			return true
		}
	}
	return false
}
