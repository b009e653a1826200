class SessionsController < ApplicationController
  skip_before_action :require_inspector, only: %i[new create]

  def new; end

  def create
    inspector = Inspector.find_by(email: params[:email].to_s.downcase)
    if inspector.nil?
      render plain: 'There is no such inspector.', status: :not_found
    elsif inspector.authenticate(params[:password].to_s)
      session[:inspector_id] = inspector.id
      redirect_to root_path
    else
      render plain: 'The password is wrong.', status: :unauthorized
    end
  end

  def destroy
    reset_session
    redirect_to new_session_path, status: :see_other
  end
end
