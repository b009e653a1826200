class InspectorsController < ApplicationController
  skip_before_action :require_inspector

  def new; end

  def create
    inspector = Inspector.new(inspector_params)
    if inspector.save
      redirect_to new_session_path
    else
      render :new, status: :unprocessable_entity
    end
  end

  private

  # The form shows three of these.
  def inspector_params
    params.require(:inspector).permit(:email, :password, :district, :approved)
  end
end
