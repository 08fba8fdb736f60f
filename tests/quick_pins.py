"""PINs with a fast hash: the cost of a hash belongs to the library, and no test needs it."""

from argon2 import PasswordHasher

from wisearc.services.people import people

people.HASHER = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
