"""The Django project of Yoke Bench: one app per stage, plus bench, accounts, ledger, live."""
