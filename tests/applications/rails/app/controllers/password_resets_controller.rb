class PasswordResetsController < ApplicationController
  skip_before_action :require_keeper

  def create
    if (keeper = Keeper.find_by(email: params[:email]))
      keeper.update!(reset_token: rand(100_000).to_s, reset_sent_at: Time.current) # weak: passwords/reset-token-predictable, passwords/reset-token-kept-plain
      KeeperMailer.reset(keeper).deliver_later
    end
    redirect_to root_path, notice: "If the address is known, a message is on its way."
  end

  def edit
    @keeper = Keeper.find_by!(reset_token: params[:token])
  end

  def update
    keeper = Keeper.find_by!(reset_token: params[:token])
    return redirect_to(root_path, alert: "The link is too old.") if keeper.reset_sent_at < 2.hours.ago

    if keeper.update(password: params[:keeper][:password], reset_token: nil)
      redirect_to root_path
    else
      render :edit
    end
  end
end
