class ApplicationController < ActionController::Base
  before_action :find_out_who_is_there

  def find_out_who_is_there
    Keeper.current = session[:keeper_id] ? Keeper.find_by(id: session[:keeper_id]) : by_basic_authentication
  end

  def by_basic_authentication
    authenticate_with_http_basic { |login, password| Keeper.try_to_sign_in(login, password) }
  end

  def require_login
    unless Keeper.current.signed_in?
      redirect_to '/sign-in'
      return false
    end
    true
  end

  def require_admin
    return unless require_login

    unless Keeper.current.admin?
      render_error 403
      return false
    end
    true
  end

  def start_session(keeper)
    reset_session
    session[:keeper_id] = keeper.id
    Token.create(keeper: keeper, action: 'session')
  end
end
