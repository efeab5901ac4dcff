"""Blueprints to forms: what a test is to hold, what a form will do, and the forms that fit best."""
