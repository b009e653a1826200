class RegistrationsController < ApplicationController
  allow_unauthenticated_access

  def new
    @keeper = Keeper.new
  end

  def create
    @keeper = Keeper.new(params.expect(keeper: [ :email_address, :name, :password, :password_confirmation ]))
    if @keeper.save
      start_new_session_for @keeper
      redirect_to root_path
    else
      render :new, status: :unprocessable_entity
    end
  end
end
