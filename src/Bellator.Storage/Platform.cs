[assembly: System.Runtime.Versioning.SupportedOSPlatform("linux")]
