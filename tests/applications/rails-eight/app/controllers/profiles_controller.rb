class ProfilesController < ApplicationController
  def show
    @keeper = Current.keeper
  end

  def update
    Current.keeper.update!(params.expect(keeper: [ :name, :admin ])) # weak: injection/mass-assignment
    redirect_to profile_path
  end
end
