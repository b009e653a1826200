<?php
// Sets a new password with the link from the message.
require 'lib/session.php';
require 'lib/members.php';
require 'lib/page.php';

$hash = hash('sha256', $_GET['t'] ?? '');
$reset = one(run_bound($db, 'SELECT id, member_id FROM resets WHERE token_hash = ? AND ends_at > NOW()', 's', $hash));
if ($reset === null) {
    exit('This link is not valid any more.');
}
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    check_token();
    if (strlen($_POST['password']) >= 10 && $_POST['password'] === $_POST['password_again']) {
        change_password($db, $reset['member_id'], $_POST['password']);
        run_bound($db, 'DELETE FROM resets WHERE id = ?', 'i', $reset['id']);
        header('Location: /portal/signin.php');
        exit;
    }
}
page_head('New password');
?>
<form method="post">
  <input type="hidden" name="token" value="<?= h(form_token()) ?>">
  <input name="password" type="password"> <input name="password_again" type="password"> <button>Change</button>
</form>
<?php
page_foot();
