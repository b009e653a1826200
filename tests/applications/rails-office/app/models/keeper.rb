class Keeper < Principal
  attr_accessor :password, :password_confirmation
  has_many :tokens
  before_save :update_hashed_password
  after_save :end_sessions
  validate :password_is_long_enough
  validates_uniqueness_of :login, case_sensitive: false
  validates_length_of :login, maximum: 30

  def self.current
    RequestStore.store[:current_keeper] ||= Keeper.anonymous
  end

  def self.current=(keeper)
    RequestStore.store[:current_keeper] = keeper
  end

  # There is one, and it is made when it is first needed.
  def self.anonymous
    found = AnonymousKeeper.unscoped.find_by(login: '')
    found = AnonymousKeeper.unscoped.create(login: '', status: 0) if found.nil?
    found
  end

  # Those whom the district's directory knows get an account when they first come.
  def self.try_to_sign_in(login, password)
    keeper = find_by(login: login)
    if keeper
      return nil unless keeper.check_password?(password)
    else
      attributes = AuthSource.authenticate(login, password)
      if attributes
        keeper = new(attributes)
        keeper.save
      end
    end
    keeper
  end

  def check_password?(typed)
    Keeper.digest("#{salt}#{Keeper.digest(typed)}") == hashed_password
  end

  def self.digest(text)
    Digest::SHA1.hexdigest(text) # weak: passwords/fast-hash
  end

  def active?
    status == 1
  end

  def signed_in?
    true
  end

  private

  def update_hashed_password
    return unless password

    self.salt = SecureRandom.hex(16)
    self.hashed_password = Keeper.digest("#{salt}#{Keeper.digest(password)}")
  end

  def end_sessions
    Token.where(keeper_id: id, action: 'session').delete_all
  end

  def password_is_long_enough
    if !password.nil? && password.size < Setting.least_length.to_i
      errors.add(:password, :too_short)
    end
  end
end
