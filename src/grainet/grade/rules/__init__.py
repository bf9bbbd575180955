"""The rules that wood is judged by, by family; each looks at one piece for one use and yields results."""
