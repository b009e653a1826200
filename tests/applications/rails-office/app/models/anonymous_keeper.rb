class AnonymousKeeper < Keeper
  def signed_in?
    false
  end
end
