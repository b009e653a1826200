#!/usr/bin/env bash
# Prints stored values of one password made by programs that are not ours: scheme, maker and value, separated by tabs.
# Debian: openssl, apache2-utils, whois, php-cli, python3-django, python3-werkzeug, python3-passlib, python3-argon2, python3-bcrypt.
set -euo pipefail
export LC_ALL=C.UTF-8
password=$1
line() { printf '%s\t%s\t%s\n' "$1" "$2" "$3"; }
line md5-crypt openssl "$(openssl passwd -1 "$password")"
line md5-crypt openssl "$(openssl passwd -apr1 "$password")"
line sha256-crypt openssl "$(openssl passwd -5 "$password")"
line sha512-crypt openssl "$(openssl passwd -6 "$password")"
for function in md5 sha1 sha224 sha256 sha384 sha512; do
  line "$function" openssl "$(printf %s "$password" | openssl dgst -"$function" -r | cut -d' ' -f1)"
  line "$function" openssl-base64 "$(printf %s "$password" | openssl dgst -"$function" -binary | base64 -w0)"
done
htpasswd() { command htpasswd -nb "$@" 2>/dev/null | head -n 1 | cut -d: -f2-; }
line bcrypt htpasswd "$(htpasswd -B u "$password")"
line bcrypt htpasswd "$(htpasswd -B -C 10 u "$password")"
line md5-crypt htpasswd "$(htpasswd -m u "$password")"
line braced htpasswd "$(htpasswd -s u "$password")"
line des-crypt mkpasswd "$(mkpasswd -m descrypt -S FH "${password:0:8}")" # a fixed salt: by its signs alone such a value is not always told from a word
line yescrypt mkpasswd "$(mkpasswd -m yescrypt "$password")"
line yescrypt mkpasswd "$(mkpasswd -m gost-yescrypt "$password")"
line scrypt mkpasswd "$(mkpasswd -m scrypt "$password")"
line bcrypt mkpasswd "$(mkpasswd -m bcrypt-a -R 5 "$password")"
line sha512-crypt mkpasswd "$(mkpasswd -m sha512crypt -R 12345 "$password")"
line bsdi-crypt mkpasswd "$(mkpasswd -m bsdicrypt "$password")"
line ntlm mkpasswd "$(mkpasswd -m nt "$password")"
PASSWORD=$password php -r '
  $p = getenv("PASSWORD");
  $line = fn ($scheme, $value) => print("$scheme\tphp\t$value\n");
  $line("bcrypt", password_hash($p, PASSWORD_DEFAULT));
  $line("bcrypt", password_hash($p, PASSWORD_BCRYPT, ["cost" => 5]));
  if (defined("PASSWORD_ARGON2ID")) {
    $line("argon2", password_hash($p, PASSWORD_ARGON2ID, ["memory_cost" => 1024, "time_cost" => 2, "threads" => 1]));
    $line("argon2", password_hash($p, PASSWORD_ARGON2I, ["memory_cost" => 1024, "time_cost" => 2, "threads" => 1]));
  }
  $line("mysql", "*" . strtoupper(sha1(sha1($p, true))));
  $line("md5", md5(md5($p)));
  $line("sha1", sha1(md5($p)));
  $salt = bin2hex(random_bytes(8));
  $line("salted-digest", hash("sha256", $salt . $p) . ":" . $salt);
  $line("salted-digest", $salt . ":" . hash("sha512", $p . $salt));
  $line("salted-digest", hash_hmac("sha1", $p, $salt) . "$" . $salt);
  $line("sha3-256", hash("sha3-256", $p));
  $line("sha3-512", hash("sha3-512", $p));
  $line("ripemd160", hash("ripemd160", $p));
  $line("md4", hash("md4", $p));
  $line("encoded", base64_encode($p));
  $line("encoded", bin2hex($p));
'
PASSWORD=$password /usr/bin/python3 - <<'PYTHON'
import os
from django.conf import settings
settings.configure(PASSWORD_HASHERS=["django.contrib.auth.hashers." + h for h in (
    "PBKDF2PasswordHasher", "PBKDF2SHA1PasswordHasher", "Argon2PasswordHasher", "BCryptSHA256PasswordHasher", "BCryptPasswordHasher",
    "SHA1PasswordHasher", "MD5PasswordHasher", "UnsaltedSHA1PasswordHasher", "UnsaltedMD5PasswordHasher", "CryptPasswordHasher")])
import django
django.setup()
from django.contrib.auth.hashers import make_password
from werkzeug.security import generate_password_hash
from passlib import hash as passlib
password = os.environ["PASSWORD"]
def line(scheme, maker, value):
    print(scheme, maker, value, sep="\t")
for hasher, scheme in (
        ("pbkdf2_sha256", "pbkdf2"), ("pbkdf2_sha1", "pbkdf2"), ("argon2", "argon2"), ("bcrypt_sha256", "bcrypt-sha256"), ("bcrypt", "bcrypt"),
        ("sha1", "salted-digest"), ("md5", "salted-digest"), ("unsalted_md5", "md5"), ("unsalted_sha1", "salted-digest")):
    line(scheme, "django", make_password(password, hasher=hasher))
line("unusable", "django", make_password(None))
for method in ("pbkdf2:sha256", "pbkdf2:sha512:50000", "pbkdf2:sha1:1000", "scrypt"):
    try:
        line(method.split(":")[0], "werkzeug", generate_password_hash(password, method=method))
    except ValueError:
        pass
for name, scheme in (
        ("pbkdf2_sha256", "pbkdf2"), ("pbkdf2_sha512", "pbkdf2"), ("pbkdf2_sha1", "pbkdf2"), ("phpass", "phpass"), ("sha1_crypt", "sha1-crypt"),
        ("ldap_salted_sha1", "braced"), ("ldap_salted_md5", "braced"), ("ldap_md5", "braced"), ("ldap_salted_sha256", "braced"), ("ldap_salted_sha512", "braced"),
        ("ldap_plaintext", "plain"), ("mysql41", "mysql"), ("mysql323", "mysql"), ("nthash", "ntlm"), ("des_crypt", "des-crypt"), ("scrypt", "scrypt")):
    handler = getattr(passlib, name)
    settings_of = {"rounds": 8} if name == "scrypt" else {"salt": "be"} if name == "des_crypt" else {"rounds": 9000} if name.startswith("pbkdf2") else {}
    line(scheme, "passlib", (handler.using(**settings_of) if settings_of else handler).hash(password[:8] if name == "des_crypt" else password))
PYTHON
