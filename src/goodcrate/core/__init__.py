"""The rules of the job: values in, values out.

Nothing here knows the web, the database, the clock, files or the environment. One room for each stage of the work, and
`ground` for what all of them stand on; each knows those before it: ground, foods, recipes, targets, week, cook,
portion, store. `./crate test` holds that.
"""
