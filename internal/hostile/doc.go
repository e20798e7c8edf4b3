// Package hostile holds no code: its tests give the real entry points what nobody should send. scripts/hostile runs them in full.
package hostile
