<?php
// Sign in and out.
require 'lib/session.php';
require 'lib/members.php';
require 'lib/page.php';

if (isset($_GET['out'])) {
    sign_out();
    header('Location: /portal/');
    exit;
}

$problem = '';
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    check_token();
    $member = check_member($db, strtolower(trim($_POST['email'])), $_POST['password']);
    if ($member !== null) {
        sign_in_as($member);
        header('Location: /portal/hives.php');
        exit;
    }
    $problem = 'Address and password do not fit.';
}
page_head('Sign in');
?>
<p><?= h($problem) ?></p>
<form method="post">
  <input type="hidden" name="token" value="<?= h(form_token()) ?>">
  <input name="email" type="email"> <input name="password" type="password"> <button>Sign in</button>
</form>
<?php
page_foot();
