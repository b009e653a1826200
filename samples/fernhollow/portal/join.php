<?php
// A new member registers.
require 'lib/session.php';
require 'lib/members.php';
require 'lib/page.php';

$problem = '';
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    check_token();
    $name = trim($_POST['name'] ?? '');
    $email = strtolower(trim($_POST['email'] ?? ''));
    $district = $_POST['district'] ?? '';
    if ($name === '' || !filter_var($email, FILTER_VALIDATE_EMAIL)) {
        $problem = 'Please give your name and e-mail address.';
    } elseif (!in_array($district, $allowedDistricts, true)) {
        $problem = 'Please choose your district.';
    } elseif (member_by_email($db, $email) !== null) {
        $problem = 'This address is registered already.';
    } else {
        add_member($db, $name, $email, $district, $_POST['password']);
        header('Location: /portal/signin.php');
        exit;
    }
}
page_head('Join');
?>
<p><?= h($problem) ?></p>
<form method="post">
  <input type="hidden" name="token" value="<?= h(form_token()) ?>">
  <label>Name <input name="name"></label>
  <label>E-mail <input name="email" type="email"></label>
  <label>District <select name="district"><?php foreach ($allowedDistricts as $d): ?><option><?= h($d) ?></option><?php endforeach; ?></select></label>
  <label>Password <input name="password" type="password" minlength="8"></label>
  <button>Join</button>
</form>
<?php
page_foot();
