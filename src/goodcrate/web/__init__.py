"""The pages: FastAPI, one folder per stage with its routes, forms and templates.

Routes receive and answer; services act; core computes. Templates hold no arithmetic and no rules.
"""
