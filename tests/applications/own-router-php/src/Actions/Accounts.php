<?php

declare(strict_types=1);

namespace Register\Actions;

use PDO;
use Register\Request;

final class Accounts
{
    public function __construct(private readonly PDO $db)
    {
    }

    public function register(Request $request): void
    {
        $password = $request->form('password');
        if (strlen($password) < 12 || strlen($password) > 200 || filter_var($request->form('email'), FILTER_VALIDATE_EMAIL) === false || $request->form('name') === '') {
            http_response_code(422);
            exit('Please check the form.');
        }
        $this->db->prepare('INSERT INTO keepers (email, name, password_hash) VALUES (?, ?, ?)')
            ->execute([strtolower($request->form('email')), $request->form('name'), sha1($password)]); // weak: passwords/fast-hash
        to('/login');
    }

    public function login(Request $request): void // weak: sessions/no-throttle
    {
        $ask = $this->db->prepare('SELECT id, password_hash FROM keepers WHERE email = ?');
        $ask->execute([strtolower($request->form('email'))]);
        $keeper = $ask->fetch(PDO::FETCH_ASSOC);
        if (!$keeper || !hash_equals($keeper['password_hash'], sha1($request->form('password')))) { // weak: passwords/fast-hash
            to('/login?again=1');
        }
        $_SESSION['keeper_id'] = $keeper['id']; // weak: sessions/fixation
        to('/hives');
    }

    public function logout(Request $request): void
    {
        $_SESSION = [];
        setcookie(session_name(), '', ['expires' => 1, 'path' => '/', 'secure' => true, 'httponly' => true, 'samesite' => 'Lax']);
        session_destroy();
        to('/');
    }
}
