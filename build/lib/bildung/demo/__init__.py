"""The Brackwater Federation: made-up people, items and answers with known truth. docs/demo.md lists what is planted."""
