"""The rules of the job: values in, values out.

Nothing here knows the web, the database, the clock, files or the environment.
Modules are named by the stages of the work (`targets`, `foods`, `recipes`, `week`,
`cook`, `portion`); `errors`, `nutrients` and `amounts` are the ground they share.
"""
