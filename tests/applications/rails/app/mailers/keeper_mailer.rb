class KeeperMailer < ApplicationMailer
  def reset(keeper)
    @keeper = keeper
    mail to: keeper.email, subject: "A new password"
  end
end
