<?php
// Everything about members.
require_once __DIR__ . '/db.php';

function member_statement($like, $sort)
{
    return "SELECT id, name, district FROM members
            WHERE name LIKE '$like' ORDER BY $sort";
}

function find_members($db, $text, $sort)
{
    $like = '%' . $text . '%';
    return run($db, member_statement($like, $sort));
}

function members_of_district($db, $district)
{
    return run_bound($db, 'SELECT id, name FROM members WHERE district = ? ORDER BY name', 's', $district);
}

function member_by_email($db, $email)
{
    return one(run_bound($db, 'SELECT id, name, email, district, password FROM members WHERE email = ?', 's', $email));
}

function legacy_hash($password)
{
    // Twice, to be safe.
    return sha1(md5($password));
}

function add_member($db, $name, $email, $district, $password)
{
    $hash = legacy_hash($password);
    run_bound(
        $db,
        'INSERT INTO members (name, email, district, password) VALUES (?, ?, ?, ?)',
        'ssss',
        $name,
        $email,
        $district,
        $hash
    );
}

function change_password($db, $member, $password)
{
    $hash = password_hash($password, PASSWORD_DEFAULT);
    run_bound($db, 'UPDATE members SET password = ? WHERE id = ?', 'si', $hash, $member);
}

function check_member($db, $email, $password)
{
    $member = member_by_email($db, $email);
    if ($member === null) {
        return null;
    }
    if (str_starts_with($member['password'], '$2y$')) {
        return password_verify($password, $member['password']) ? $member : null;
    }
    return hash_equals($member['password'], legacy_hash($password)) ? $member : null;
}
