<?php
// A member asks for a new password.
require 'lib/session.php';
require 'lib/members.php';
require 'lib/page.php';

if ($_SERVER['REQUEST_METHOD'] === 'POST' && isset($_POST['email'])) {
    check_token();
    $member = member_by_email($db, strtolower(trim($_POST['email'])));
    if ($member !== null) {
        $reset = bin2hex(random_bytes(32));
        run_bound($db, 'INSERT INTO resets (member_id, token_hash, ends_at) VALUES (?, ?, NOW() + INTERVAL 1 HOUR)', 'is', $member['id'], hash('sha256', $reset));
        mail($member['email'], 'New password', 'https://fernhollow.example/portal/reset.php?t=' . $reset);
    }
    page_head('Thank you');
    echo '<p>If the address is registered, a message is on its way.</p>';
    page_foot();
    exit;
}
page_head('Forgotten password');
?>
<form method="post">
  <input type="hidden" name="token" value="<?= h(form_token()) ?>">
  <input name="email" type="email"> <button>Send</button>
</form>
<?php
page_foot();
