import pytest


@pytest.fixture(autouse=True)
def quick_passwords(settings):
    """Real hashing costs a third of a second a person."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
