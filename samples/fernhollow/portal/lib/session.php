<?php
// Who is signed in.
session_set_cookie_params(['httponly' => true, 'secure' => true, 'samesite' => 'Lax']);
session_start();

function signed_in()
{
    return isset($_SESSION['member_id']);
}

function require_member()
{
    if (!signed_in()) {
        header('Location: /portal/signin.php');
        exit;
    }
    return (int) $_SESSION['member_id'];
}

function sign_in_as($member)
{
    session_regenerate_id(true);
    $_SESSION['member_id'] = $member['id'];
    $_SESSION['district'] = $member['district'];
    $_SESSION['name'] = $member['name'];
}

function sign_out()
{
    $_SESSION = [];
    session_destroy();
}

function form_token()
{
    if (!isset($_SESSION['token'])) {
        $_SESSION['token'] = bin2hex(random_bytes(32));
    }
    return $_SESSION['token'];
}

function check_token()
{
    if (!hash_equals($_SESSION['token'] ?? '', $_POST['token'] ?? '')) {
        http_response_code(400);
        exit('The form was too old.');
    }
}
