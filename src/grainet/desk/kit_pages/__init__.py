"""The pages of the kit book: each shows what is kept and edits it in place."""
