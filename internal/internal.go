// Package internal holds Sodrik; its test keeps the arrows between packages pointing inward.
package internal
