"""Wrong passwords are counted for all processes together, by account and by address; a sender's own word on where it comes from is nothing."""

import threading
from unittest.mock import patch

from axes.models import AccessAttempt
from django.conf import settings
from django.test import Client, RequestFactory, TestCase, override_settings
from testing import PASSWORD, person

from accounts import proving
from accounts.addresses import client_address


class SigningIn(TestCase):
    def setUp(self) -> None:
        person("engineer")
        person("buyer")

    def attempt(self, user: str = "engineer", password: str = "wrong", address: str = "127.0.0.1", **headers: str):
        return Client().post(
            "/api/session", {"user": user, "password": password}, content_type="application/json", REMOTE_ADDR=address, headers=headers
        )

    def wrong(self, times: int, **more: str) -> list[str]:
        return [self.attempt(**more).json()["message"] for _ in range(times)]

    def test_a_wrong_password_and_an_unknown_name_say_the_same(self) -> None:
        self.assertEqual(self.wrong(1), self.wrong(1, user="nobody"))
        self.assertEqual(self.attempt(password=PASSWORD).json()["user"], "engineer")

    def test_an_account_is_closed_for_a_while_wherever_the_tries_come_from(self) -> None:
        limit = settings.AXES_FAILURE_LIMIT
        for number in range(limit):
            self.attempt(address=f"10.0.0.{number}")
        self.assertIn("Too many wrong tries", self.attempt(address="10.0.1.1", password=PASSWORD).json()["message"])
        self.assertEqual(self.attempt(user="buyer", password=PASSWORD, address="10.0.1.1").status_code, 200)
        # It is kept where every process looks.
        self.assertTrue(AccessAttempt.objects.filter(username="engineer").exists())

    def test_an_address_is_closed_whatever_it_says_of_itself(self) -> None:
        for number in range(settings.AXES_FAILURE_LIMIT):
            self.attempt(user=f"name{number}", **{"X-Forwarded-For": f"203.0.113.{number}"})
        said = self.attempt(user="buyer", password=PASSWORD, **{"X-Forwarded-For": "203.0.113.200"}).json()
        self.assertIn("Too many wrong tries", said["message"])

    def test_names_and_passwords_without_end_are_not_hashed(self) -> None:
        with patch.object(proving, "authenticate", side_effect=AssertionError("hashed")):
            for user, password in (("x" * 151, "y"), ("x", "y" * 1001), ("x\x00", "y")):
                self.assertEqual(self.attempt(user=user, password=password).status_code, 422)

    def test_only_some_hash_at_once_and_the_others_are_told(self) -> None:
        free = threading.BoundedSemaphore(1)
        self.assertTrue(free.acquire())
        with patch.object(proving, "_HASHING", free), patch.object(proving, "_PATIENCE", 0.01):
            self.assertIn("Many people sign in", self.wrong(1)[0])
            free.release()
            self.assertIn("do not go together", self.wrong(1)[0])


class Addresses(TestCase):
    def test_only_what_our_own_proxies_added_is_believed(self) -> None:
        def found(told: str, trusted: int) -> str:
            with override_settings(TRUSTED_PROXIES=trusted):
                return client_address(RequestFactory().get("/", headers={"X-Forwarded-For": told} if told else {}, REMOTE_ADDR="192.0.2.1"))

        self.assertEqual(found("198.51.100.7", 0), "192.0.2.1")
        self.assertEqual(found("1.1.1.1, 198.51.100.7", 1), "198.51.100.7")
        self.assertEqual(found("1.1.1.1, 198.51.100.7, 198.51.100.8", 2), "198.51.100.7")
        self.assertEqual(found("", 1), "192.0.2.1")
        self.assertEqual(found("198.51.100.7", 2), "192.0.2.1")
