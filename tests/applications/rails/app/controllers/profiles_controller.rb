class ProfilesController < ApplicationController
  def show
    @keeper = current_keeper
  end

  def update
    if current_keeper.update(params.require(:keeper).permit(:name, :phone))
      redirect_to profile_path
    else
      render :show
    end
  end
end
