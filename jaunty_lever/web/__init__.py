"""The web application: pages, fragments and the interface for programs. No rule of the job lives here."""
